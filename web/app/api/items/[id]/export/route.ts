import { z } from 'zod';
import { database } from '@/server/db/client';
import { download, idParam, route } from '@/server/http';
import { exportItem } from '@/server/services/fittings';
import { EXPORT_FORMATS, type ExportFormat } from '@/workers/export-formats';
import { FIT_DEFAULTS, settingsText } from '@/workers/settings';

const query = z.object({
  format: z.enum(EXPORT_FORMATS),
  fps: z.coerce.number().positive().max(1000).optional(),
  /** Millimetres within which keys are left out. */
  keys: z.coerce.number().min(0.01).max(1000).optional(),
  mesh: z.enum(['0', '1']).default('1'),
  onto: z.string().max(16).optional(),
  settings: settingsText.optional(),
});

const MIME: Readonly<Record<ExportFormat, string>> = {
  glb: 'model/gltf-binary',
  bvh: 'text/plain; charset=utf-8',
  csv: 'text/csv; charset=utf-8',
  json: 'application/json',
};

export const GET = route({ need: 'read', params: idParam, query }, async ({ params: { id }, query: q }) => {
  const file = await exportItem(database(), id, {
    format: q.format,
    fps: q.fps ?? null,
    keyTolerance: q.keys === undefined ? null : q.keys / 1000,
    mesh: q.mesh === '1',
    onto: q.onto ?? null,
    settings: q.settings ?? FIT_DEFAULTS,
  });
  return download(file.bytes, file.name, MIME[q.format]);
});
