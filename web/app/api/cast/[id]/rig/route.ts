import { database } from '@/server/db/client';
import { idParam, route } from '@/server/http';
import { castRig } from '@/server/services/cast';

export const GET = route({ need: 'read', params: idParam }, ({ params: { id } }) => castRig(database(), id));
