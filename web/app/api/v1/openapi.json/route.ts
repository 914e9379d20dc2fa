import { openApi } from '@/server/api/openapi';

/** The document says nothing that is not in this repository; nobody needs to sign in to read it. */
export const GET = (): Response => Response.json(openApi());
