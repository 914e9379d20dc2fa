/** Whether this process answers at all. */
export const dynamic = 'force-dynamic';
export const GET = (): Response => new Response('ok\n', { headers: { 'cache-control': 'no-store' } });
