import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { listFolders } from '@/server/services/folders';

export const GET = route({ need: 'read' }, () => listFolders(database()));
