import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { libraryCounts } from '@/server/services/items';

export const GET = route({ need: 'read' }, () => libraryCounts(database()));
