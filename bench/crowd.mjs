// People on loopback: everybody is a loop of their own with a pause between requests, as people have. Shared by what measures
// how quickly they are answered, and what looks whether anything is lost while processes die.
import { createHash, randomBytes } from 'node:crypto';

export const sleep = (ms) => new Promise((r) => setTimeout(r, ms));
export const pick = (list) => list[Math.floor(Math.random() * list.length)];
export const quantile = (list, q) => [...list].sort((a, b) => a - b)[Math.floor(q * (list.length - 1))] ?? Number.NaN;

const WORDS = [
  'rope',
  'walks',
  'haul',
  'lantern',
  'tove',
  'boom',
  'kind:take',
  'tag:wet',
  'loops:yes',
  'kneels',
  'night',
  'tag:rope',
  'length:short',
  'rights:own',
];

/** Tokens of people of the demo world who may edit. */
export async function makeTokens(db, count) {
  const [people] = await db.query("select id from people where role <> 'viewer'");
  const tokens = [];
  for (let i = 0; i < count; i++) {
    const token = `vr_${randomBytes(30).toString('base64url')}`;
    await db.query('insert into api_tokens (id, person_id, name, hash, starts) values (?, ?, ?, ?, ?)', [
      randomBytes(9).toString('base64url'),
      people[i % people.length].id,
      'load',
      createHash('sha256').update(token).digest('hex'),
      token.slice(0, 8),
    ]);
    tokens.push(token);
  }
  return tokens;
}

/**
 * Somebody who looks for things and looks at them.
 * @param ask (kind, path) → what is answered, or undefined
 */
export async function browse(ask, end) {
  await sleep(3000 * Math.random());
  while (Date.now() < end) {
    const q = [pick(WORDS), Math.random() < 0.6 ? pick(WORDS) : ''].join(' ').trim();
    const list = await ask('search', `/items?${new URLSearchParams({ q, facets: '1', limit: '100' })}`);
    const rows = list?.items ?? [];
    if (rows.length > 0) {
      await ask('strips', `/strips?readings=${[...new Set(rows.slice(0, 8).map((r) => r.readingId))].join(',')}`);
      await sleep(600 + 900 * Math.random());
      await ask('item', `/items/${pick(rows).id}`);
    }
    await sleep(1200 + 2000 * Math.random());
  }
}

/**
 * Somebody who describes what they find.
 * @param choose of the items found, the one to describe
 * @param told (item, note) where the note is acknowledged
 */
export async function edit(ask, end, { choose = pick, told = () => undefined } = {}) {
  await sleep(3000 * Math.random());
  while (Date.now() < end) {
    const list = await ask('search', `/items?${new URLSearchParams({ q: pick(WORDS), limit: '50' })}`);
    const row = list && choose(list.items);
    if (row) {
      const change = { note: `noted ${Math.random()}`, rating: Math.floor(6 * Math.random()) };
      const answer = await ask('edit', `/items/${row.id}`, 'PATCH', { change });
      if (answer) told(row.id, change.note);
    }
    await sleep(1500 + 2000 * Math.random());
  }
}

/** Comes in as one of the demo world's people, and asks in their name. */
export async function signInAs(address, who) {
  const signed = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: address },
    body: JSON.stringify({ demo: `${who}@saltmarsh.example` }),
  });
  const cookie = signed.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
  return (method, path, body, signal) =>
    fetch(`${address}/api/v1${path}`, {
      method,
      headers: {
        cookie,
        origin: address,
        ...(typeof body === 'string' && { 'content-type': 'application/json' }),
      },
      ...(body !== undefined && { body }),
      ...(signal && { signal }),
    });
}
