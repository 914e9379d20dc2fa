import { TRAVELS } from '@velvet-reel/motion';
import { z } from 'zod';
import { database } from '@/server/db/client';
import { download, idParam, route } from '@/server/http';
import { exportItem } from '@/server/services/fittings';

const query = z.object({
  format: z.enum(['bvh', 'glb']),
  fps: z.coerce.number().positive().max(1000).optional(),
  mesh: z.enum(['0', '1']).default('1'),
  onto: z.string().max(16).optional(),
  plants: z.enum(['0', '1']).default('1'),
  travel: z.enum(TRAVELS).default('leg'),
});

export const GET = route({ need: 'read', params: idParam, query }, async ({ params: { id }, query: q }) => {
  const file = await exportItem(database(), id, {
    format: q.format,
    fps: q.fps ?? null,
    mesh: q.mesh === '1',
    onto: q.onto ?? null,
    settings: { plants: q.plants === '1', travel: q.travel },
  });
  return download(file.bytes, file.name, q.format === 'glb' ? 'model/gltf-binary' : 'text/plain; charset=utf-8');
});
