import { timingSafeEqual } from 'node:crypto';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import { z } from 'zod';
import { type Answer, FAULTS, type Fault, type FaultPlan, sendWith } from './faults';
import type { Ledger } from './ledger';
import { openApi } from './openapi';
import type { Catalogue, Listed } from './takes';

export interface SupplierSettings {
  readonly name: string;
  readonly key: string;
  readonly catalogue: Catalogue;
  readonly ledger: Ledger;
  readonly faults: FaultPlan;
  readonly random: () => number;
}

const PAGE = 24;
const MOST_BYTES = 10_000;

class Wrong extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

const json = (value: unknown, status = 200): Answer => ({
  status,
  type: 'application/json; charset=utf-8',
  body: new TextEncoder().encode(JSON.stringify(value)),
});

/** An HTTP service with a catalogue, an account and files. What it answers is in its /openapi.json. */
export function supplierServer(settings: SupplierSettings): Server {
  const plan: FaultPlan = { ...settings.faults };
  return createServer((request, response) => {
    void answerTo(settings, plan, request)
      .catch((error: unknown) =>
        error instanceof Wrong
          ? json({ error: { message: error.message } }, error.status)
          : error instanceof z.ZodError
            ? json({ error: { message: 'The request does not have the form that /openapi.json describes.' } }, 400)
            : json({ error: { message: 'Something went wrong here.' } }, 500),
      )
      .then((answer) => {
        const own = request.url?.startsWith('/stand-in/') || request.url === '/openapi.json';
        const fault: Fault | undefined =
          !own && settings.random() < plan.share
            ? plan.kinds[Math.floor(settings.random() * plan.kinds.length)]
            : undefined;
        sendWith(fault, answer, response, plan.slowMs);
      });
  });
}

async function answerTo(settings: SupplierSettings, plan: FaultPlan, request: IncomingMessage): Promise<Answer> {
  const { catalogue, ledger } = settings;
  const url = new URL(request.url ?? '/', 'http://stand-in');
  const [first, second, third, fourth, fifth] = url.pathname.split('/').filter(Boolean);
  const get = request.method === 'GET';
  const row = (t: Listed): object => ({
    ...t,
    issue: ledger.issueOf(t.id),
    packs: catalogue.packs.filter((p) => p.takes.includes(t.id)).map((p) => p.id),
  });
  const take = (): Listed => {
    const found = catalogue.find(second ?? '');
    if (!found) throw new Wrong(404, 'There is no such take.');
    return found;
  };
  if (get && first === undefined) return json({ name: settings.name, version: 1 });
  if (get && first === 'openapi.json') return json(openApi(settings.name));
  if (get && first === 'packs' && second === undefined) return json({ packs: catalogue.packs });
  if (get && first === 'takes' && second === undefined) {
    const words = (url.searchParams.get('q') ?? '').toLowerCase().split(/\s+/).filter(Boolean);
    const tag = url.searchParams.get('tag');
    const pack = url.searchParams.get('pack');
    const members = pack === null ? undefined : catalogue.packs.find((p) => p.id === pack)?.takes;
    if (pack !== null && !members) throw new Wrong(404, 'There is no such pack.');
    const ids = url.searchParams.get('ids')?.split(',');
    const found = catalogue.takes.filter(
      (t) =>
        words.every((w) => `${t.name} ${t.note} ${t.tags.join(' ')}`.toLowerCase().includes(w)) &&
        (tag === null || t.tags.includes(tag)) &&
        (!members || members.includes(t.id)) &&
        (!ids || ids.includes(t.id)),
    );
    const page = Math.max(1, Math.round(Number(url.searchParams.get('page') ?? 1)) || 1);
    const tags = new Map<string, number>();
    for (const t of found) for (const x of t.tags) tags.set(x, (tags.get(x) ?? 0) + 1);
    return json({
      takes: found.slice((page - 1) * PAGE, page * PAGE).map(row),
      total: found.length,
      pages: Math.max(1, Math.ceil(found.length / PAGE)),
      tags: [...tags].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0])).map(([name, count]) => ({ name, count })),
    });
  }
  if (get && first === 'takes' && third === undefined) return json(row(take()));
  if (get && first === 'takes' && third === 'strip.png') {
    const { id } = take();
    return { status: 200, type: 'image/png', body: await catalogue.strip(id, ledger.issueOf(id)) };
  }
  if (get && first === 'takes' && third === 'preview.bvh') {
    const { id } = take();
    return { status: 200, type: 'text/plain; charset=utf-8', body: catalogue.preview(id, ledger.issueOf(id)) };
  }
  if (first === 'takes' && third === 'issues') {
    const { id } = take();
    const issue = Number(fourth);
    if (!(Number.isInteger(issue) && issue >= 1 && issue <= ledger.issueOf(id)))
      throw new Wrong(404, 'There is no such issue of this take.');
    if (get && fifth === undefined) {
      const body = catalogue.file(id, issue);
      return json({
        number: issue,
        changes: issue === 1 ? '' : ledger.changesOf(id)[issue - 2]!,
        bytes: body.length,
        sha256: catalogue.sha256(id, issue),
      });
    }
    if (get && fifth === 'file') {
      account(settings, request);
      if (!ledger.owns(id)) throw new Wrong(403, 'This take is not owned by the account.');
      return { status: 200, type: 'text/plain; charset=utf-8', body: catalogue.file(id, issue) };
    }
  }
  if (first === 'account') {
    account(settings, request);
    if (get && second === undefined)
      return json({
        name: 'Saltmarsh Ferry productions',
        credits: ledger.credits,
        owned: ledger.owned.map((id) => ({ id, issue: ledger.issueOf(id) })),
      });
    if (get && second === 'charges') return json({ charges: ledger.charges });
    if (request.method === 'PUT' && second === 'owned' && third !== undefined) {
      const { price } = z.object({ price: z.int().min(0) }).parse(await bodyOf(request));
      const pack = catalogue.packs.find((p) => p.id === third);
      const one = catalogue.find(third);
      const wanted = pack ?? one;
      if (!wanted) throw new Wrong(404, 'There is neither a take nor a pack of this name.');
      const ids = pack ? pack.takes : [wanted.id];
      if (ids.some((id) => !ledger.owns(id)) && price !== wanted.price)
        throw new Wrong(409, `The price is ${wanted.price} credits now.`);
      const charged = ledger.own(wanted.id, ids, wanted.price);
      if (charged === undefined)
        throw new Wrong(402, `The account has ${ledger.credits} credits, and ${wanted.price} are needed.`);
      return json({ charged, credits: ledger.credits });
    }
  }
  if (request.method === 'POST' && first === 'stand-in') {
    const body = await bodyOf(request);
    if (second === 'faults') {
      const wish = z
        .object({ percent: z.number().min(0).max(100), kinds: z.array(z.enum(FAULTS)).min(1).optional() })
        .parse(body);
      plan.share = wish.percent / 100;
      plan.kinds = wish.kinds ?? FAULTS;
      return json({ ok: true });
    }
    if (second === 'reissue') {
      const wish = z.object({ id: z.string(), changes: z.string().min(1).max(500) }).parse(body);
      if (!catalogue.find(wish.id)) throw new Wrong(404, 'There is no such take.');
      ledger.issueAnew(wish.id, wish.changes);
      return json({ issue: ledger.issueOf(wish.id) });
    }
  }
  throw new Wrong(404, 'There is nothing at this address.');
}

/** @throws Wrong 401 unless the request bears the account's key */
function account({ key }: SupplierSettings, request: IncomingMessage): void {
  const given = Buffer.from(request.headers.authorization ?? '');
  const wanted = Buffer.from(`Bearer ${key}`);
  if (given.length !== wanted.length || !timingSafeEqual(given, wanted))
    throw new Wrong(401, 'The key does not belong to an account.');
}

async function bodyOf(request: IncomingMessage): Promise<unknown> {
  const chunks: Buffer[] = [];
  let length = 0;
  for await (const chunk of request) {
    chunks.push(chunk as Buffer);
    length += (chunk as Buffer).length;
    if (length > MOST_BYTES) throw new Wrong(413, 'The request is too long.');
  }
  try {
    return JSON.parse(Buffer.concat(chunks).toString('utf8'));
  } catch {
    throw new Wrong(400, 'The request is not JSON.');
  }
}
