/** Formats that the application hands out. */
export const EXPORT_FORMATS = ['glb', 'usda', 'vrma', 'bvh', 'csv', 'json', 'svg', 'lottie', 'png', 'sprites'] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];
/** What only a cut-out can be written as. */
export const FLAT_FORMATS: readonly ExportFormat[] = ['svg', 'lottie', 'png', 'sprites'];
/** What can carry the character's mesh. */
export const MESH_FORMATS: readonly ExportFormat[] = ['glb', 'usda'];
/** Ending of a file. */
export const endingOf = (format: ExportFormat): string =>
  (({ lottie: 'lottie.json', png: 'png.zip', sprites: 'sprites.zip' }) as Partial<Record<ExportFormat, string>>)[
    format
  ] ?? format;
