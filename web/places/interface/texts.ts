/** What people read in places/interface, by the file that shows it. */

export const interfacePlace = {
  theInterfaceForPrograms: 'The interface for programs',
  theSpecification: 'The specification:',
  openapiJson: 'openapi.json',
  apiV1: '/api/v1',
  whoMay: 'Who may:',
  optional: ', optional',
};
