import type { NextRequest } from 'next/server';
import { ENDPOINTS } from '@/server/api/all';
import { serve } from '@/server/api/endpoint';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ path: string[] }> };
const answer = async (request: NextRequest, { params }: Context): Promise<Response> =>
  serve(ENDPOINTS, request, (await params).path);

export { answer as DELETE, answer as GET, answer as PATCH, answer as POST, answer as PUT };
