import { createHash } from 'node:crypto';
import { z } from 'zod';
import { Refusal } from '../errors';

/** Where the supplier is: VELVET_SUPPLIER, or the stand-in on this machine. Nobody can make the server call elsewhere. */
export const supplierAddress = (): string => process.env.VELVET_SUPPLIER ?? 'http://127.0.0.1:4730';

const ANSWER_BYTES = 2 ** 21;
const FILE_BYTES = 2 ** 28;
const WAIT_MS = 15_000;
/** Waits before a try, the longest: they double from try to try. */
const PAUSE_MS = 8000;
/** Somebody waits at a page: what fails is soon told. */
export const AT_A_PAGE = 3;
/** Nobody waits: a bad hour of the supplier's is sat out. */
export const IN_A_JOB = 9;

const text = z.string().max(500);
const id = z.string().regex(/^[\w-]{1,60}$/);
const take = z.object({
  id,
  name: text,
  note: z.string().max(4000),
  tags: z.array(z.string().max(80)).max(40),
  seconds: z.number().min(0),
  fps: z.number().positive(),
  price: z.int().min(0),
  issue: z.int().min(1),
  packs: z.array(id),
});
const page = z.object({
  takes: z.array(take).max(200),
  total: z.int().min(0),
  pages: z.int().min(1),
  tags: z.array(z.object({ name: z.string().max(80), count: z.int() })).max(500),
});
const packs = z.object({
  packs: z
    .array(
      z.object({ id, name: text, note: z.string().max(4000), takes: z.array(id).max(2000), price: z.int().min(0) }),
    )
    .max(500),
});
const account = z.object({
  name: text,
  credits: z.int(),
  owned: z.array(z.object({ id, issue: z.int().min(1) })).max(100_000),
});
const issue = z.object({
  number: z.int().min(1),
  changes: z.string().max(2000),
  bytes: z.int().min(1),
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
});
const owning = z.object({ charged: z.int().min(0), credits: z.int() });
const trouble = z.object({ error: z.object({ message: text }) });

export type OfferedTake = z.output<typeof take>;
export type OfferedPack = z.output<typeof packs>['packs'][number];
export type Account = z.output<typeof account>;
export type Issue = z.output<typeof issue>;

/** What was not answered, or not wholly: another try may bring it. */
class Unanswered extends Error {}

/**
 * Asks a supplier. Answers that are late, cut off, of the wrong length or not of the agreed form are asked for again; all
 * that is asked for changes nothing when it is asked for twice.
 */
export class SupplierClient {
  constructor(
    private readonly address: string,
    private readonly key: string | undefined,
    private readonly tries: number,
  ) {}

  name = async (): Promise<string> => (await this.ask('/', z.object({ name: text, version: z.literal(1) }))).name;

  takes = (query: Record<string, string>) => this.ask(`/takes?${new URLSearchParams(query)}`, page);

  packs = async (): Promise<OfferedPack[]> => (await this.ask('/packs', packs)).packs;

  account = (): Promise<Account> => this.ask('/account', account);

  issue = (takeId: string, number: number): Promise<Issue> => this.ask(`/takes/${takeId}/issues/${number}`, issue);

  /** Owns a take or a pack; one that is owned is not charged. @returns credits that were charged */
  own = async (what: string, price: number): Promise<number> =>
    (
      await this.ask(`/account/owned/${what}`, owning, {
        method: 'PUT',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ price }),
      })
    ).charged;

  preview = (takeId: string): Promise<Uint8Array> =>
    this.again(() => this.bytes(`/takes/${takeId}/preview.bvh`, ANSWER_BYTES));

  strip = (takeId: string): Promise<Uint8Array> =>
    this.again(async () => {
      const png = await this.bytes(`/takes/${takeId}/strip.png`, ANSWER_BYTES);
      const has = (at: number, hex: string): boolean =>
        Buffer.from(png.subarray(at, at + hex.length / 2)).toString('hex') === hex;
      // a picture begins and ends as one, and does so once
      if (!has(0, '89504e470d0a1a0a') || !has(png.length - 12, '0000000049454e44ae426082')) throw new Unanswered();
      return png;
    });

  /** The file of an issue, as long and with the sum that the supplier says it has. */
  file = (takeId: string, { number, bytes, sha256 }: Issue): Promise<Uint8Array> =>
    this.again(async () => {
      const file = await this.bytes(`/takes/${takeId}/issues/${number}/file`, FILE_BYTES);
      if (file.length !== bytes || createHash('sha256').update(file).digest('hex') !== sha256) throw new Unanswered();
      return file;
    });

  private ask<T>(path: string, form: z.ZodType<T>, init: RequestInit = {}): Promise<T> {
    return this.again(async () => {
      const bytes = await this.bytes(path, ANSWER_BYTES, init);
      try {
        return form.parse(JSON.parse(Buffer.from(bytes).toString('utf8')));
      } catch {
        throw new Unanswered();
      }
    });
  }

  /** @throws Refusal 502 where no try brought a whole answer */
  private async again<T>(once: () => Promise<T>): Promise<T> {
    for (let n = 1; ; n++) {
      try {
        return await once();
      } catch (error) {
        if (!(error instanceof Unanswered)) throw error;
        if (n >= this.tries)
          throw new Refusal(
            502,
            'supplier-away',
            `The supplier gave no whole answer, ${n} times. Nothing is lost or paid twice: try again later.`,
          );
        await new Promise((r) => setTimeout(r, Math.min(PAUSE_MS, 50 * 2 ** n)));
      }
    }
  }

  /** @throws Unanswered, or a Refusal with the supplier's own words for what it will never do */
  private async bytes(path: string, most: number, init: RequestInit = {}): Promise<Uint8Array> {
    let answer: Response;
    const chunks: Uint8Array[] = [];
    try {
      answer = await fetch(new URL(path, this.address), {
        ...init,
        headers: { ...init.headers, ...(this.key && { authorization: `Bearer ${this.key}` }) },
        redirect: 'error',
        signal: AbortSignal.timeout(WAIT_MS),
      });
      let length = 0;
      for await (const chunk of (answer.body ?? []) as AsyncIterable<Uint8Array>) {
        length += chunk.length;
        if (length > most) throw new Unanswered();
        chunks.push(chunk);
      }
    } catch {
      throw new Unanswered();
    }
    const bytes = new Uint8Array(Buffer.concat(chunks));
    if (answer.ok) return bytes;
    if (answer.status >= 500 || answer.status === 408 || answer.status === 429) throw new Unanswered();
    let message: string;
    try {
      ({ message } = trouble.parse(JSON.parse(Buffer.from(bytes).toString('utf8'))).error);
    } catch {
      throw new Unanswered();
    }
    throw new Refusal(answer.status === 401 ? 403 : 422, `supplier-${answer.status}`, `The supplier says: ${message}`);
  }
}
