const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
/** Whoever is killed is back by then. */
const MOST_TRIES = 150;

/** Asks a server of the application until it answers, with the cookies it gave; what is answered is acknowledged. */
export function askerOf(address, waitMs = 20_000) {
  let cookie = '';
  return async (method, path, body, form) => {
    for (let attempt = 0; ; attempt++) {
      try {
        const answer = await fetch(address + path, {
          method,
          headers: { origin: address, cookie, ...(body && !form && { 'content-type': 'application/json' }) },
          body: form ?? (body && JSON.stringify(body)),
          signal: AbortSignal.timeout(waitMs),
        });
        if (answer.status >= 500) throw new Error(`answered ${answer.status}`);
        const set = answer.headers.getSetCookie();
        if (set.length > 0) cookie = set.map((c) => c.split(';')[0]).join('; ');
        return { status: answer.status, body: await answer.json() };
      } catch (error) {
        if (attempt > MOST_TRIES) throw error;
        await sleep(300);
      }
    }
  };
}
