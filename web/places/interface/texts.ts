/** What people read in places/interface, by the file that shows it. */

export const interfacePlace = {
  theInterfaceForPrograms: 'The interface for programs',
  openapiJson: 'openapi.json',
  optional: ', optional',
  theSpecification: (description: string | number): string => `${description} The specification: `,
  apiV12: (path: string | number): string => `/api/v1${path}`,
  whoMay: (operation: string | number): string => `Who may: ${operation}`,
};
