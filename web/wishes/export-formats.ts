/** Formats that the application hands out. */
export const EXPORT_FORMATS = ['glb', 'bvh', 'csv', 'json'] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];
