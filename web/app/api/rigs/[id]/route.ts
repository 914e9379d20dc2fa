import { database } from '@/server/db/client';
import { idParam, route } from '@/server/http';
import { getRig } from '@/server/services/rigs';

export const GET = route({ need: 'read', params: idParam }, ({ params: { id } }) => getRig(database(), id));
