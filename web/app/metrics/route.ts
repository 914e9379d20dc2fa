import type { NextRequest } from 'next/server';
import { mayMeasure, measured } from '@/server/health';

export const dynamic = 'force-dynamic';

/** Figures of this process and of the queue in Prometheus’ format, for whoever shows VELVET_METRICS as a bearer token. */
export async function GET(request: NextRequest): Promise<Response> {
  if (!mayMeasure(request.headers.get('authorization'))) return new Response('not found\n', { status: 404 });
  const { text, type } = await measured();
  return new Response(text, { headers: { 'content-type': type, 'cache-control': 'no-store' } });
}
