import { readiness } from '@/server/health';

export const dynamic = 'force-dynamic';

/** Whether this process can do its work now: the database is there, of this release, and takes what is written. */
export async function GET(): Promise<Response> {
  const why = await readiness();
  return new Response(why === null ? 'ready\n' : `${why}\n`, {
    status: why === null ? 200 : 503,
    headers: { 'cache-control': 'no-store' },
  });
}
