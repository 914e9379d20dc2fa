import { and, eq, inArray, isNull } from 'drizzle-orm';
import type { Offer, OfferedPackRow, OfferPage, OfferPreview, Reissue, SupplierState } from '../../contract';
import { many } from '../../naming/counts';
import type { Person } from '../auth/person';
import { seal, unseal } from '../auth/seal';
import type { Database, Queries } from '../db/client';
import { items, jobParts, jobs, supplied, supplierLinks } from '../db/schema';
import { Refusal } from '../errors';
import {
  type Account,
  AT_A_PAGE,
  IN_A_JOB,
  type OfferedTake,
  SupplierClient,
  supplierAddress,
} from '../supplier/client';
import { readInThread } from '../threads/pool';
import { noteAudit } from './audit';
import { demandPath } from './folders';
import { getItem } from './items';
import { addJob } from './jobs';
import { usesOf } from './uses';

const PURPOSE = 'supplier key';

type Link = typeof supplierLinks.$inferSelect;

/** The studio's link with its supplier, if there is one. It belongs to an address: another supplier is another account. */
export async function linkOf(db: Queries): Promise<Link | undefined> {
  return (await db.select().from(supplierLinks).where(eq(supplierLinks.address, supplierAddress())))[0];
}

/** Asks in the name of the linked account. @throws Refusal 409 where none is linked */
export async function linkedClient(db: Queries, tries: number): Promise<SupplierClient> {
  const link = await linkOf(db);
  const key = link && unseal(PURPOSE, link.sealedKey);
  if (key === undefined)
    throw new Refusal(409, 'not-linked', 'No account is linked with the supplier: link one on its page in Intake.');
  return new SupplierClient(supplierAddress(), key, tries);
}

/** Links the account that a key belongs to; the supplier has to know it. */
export async function linkAccount(db: Database, person: Person, key: string): Promise<void> {
  const account = await new SupplierClient(supplierAddress(), key, AT_A_PAGE).account();
  const row = { sealedKey: seal(PURPOSE, key), linkedBy: person.id };
  await db
    .insert(supplierLinks)
    .values({ address: supplierAddress(), ...row })
    .onDuplicateKeyUpdate({ set: row });
  await noteAudit(db, person.id, 'supplier linked', account.name);
}

export async function unlinkAccount(db: Database, person: Person): Promise<void> {
  await db.delete(supplierLinks).where(eq(supplierLinks.address, supplierAddress()));
  await noteAudit(db, person.id, 'supplier unlinked', supplierAddress());
}

export async function setByItself(db: Database, byItself: boolean): Promise<void> {
  await db.update(supplierLinks).set({ byItself }).where(eq(supplierLinks.address, supplierAddress()));
}

/** What was taken of some takes, by take; rows whose item is destroyed do not count. */
async function takenOf(db: Queries, takes?: readonly string[]) {
  if (takes?.length === 0) return new Map<string, never>();
  const rows = await db
    .select({
      take: supplied.takeId,
      issue: supplied.issue,
      id: items.id,
      name: items.name,
      binnedAt: items.binnedAt,
    })
    .from(supplied)
    .innerJoin(items, eq(items.id, supplied.itemId))
    .where(
      and(
        eq(supplied.address, supplierAddress()),
        takes === undefined ? undefined : inArray(supplied.takeId, [...takes]),
      ),
    );
  return new Map(rows.map(({ take, binnedAt, ...r }) => [take, { ...r, binned: binnedAt !== null }]));
}

/** Takes that some open job is about to bring in. */
async function onTheWay(db: Queries): Promise<Set<string>> {
  const rows = await db
    .select({ payload: jobParts.payload })
    .from(jobParts)
    .innerJoin(jobs, eq(jobs.id, jobParts.jobId))
    .where(and(eq(jobs.kind, 'fetch'), inArray(jobParts.state, ['ready', 'running']), isNull(jobs.endedAt)));
  return new Set(rows.map((r) => String(r.payload.take)));
}

export async function supplierStateOf(db: Queries): Promise<SupplierState> {
  const nothing = { account: null, waiting: 0, coming: 0, reissued: 0, byItself: false };
  const link = await linkOf(db);
  const key = link && unseal(PURPOSE, link.sealedKey);
  const client = new SupplierClient(supplierAddress(), key, AT_A_PAGE);
  try {
    const name = await client.name();
    if (!link || key === undefined) return { state: 'unlinked', name, ...nothing };
    const account = await client.account();
    const [taken, coming] = await Promise.all([takenOf(db), onTheWay(db)]);
    return {
      state: 'linked',
      name,
      account: { name: account.name, credits: account.credits, owned: account.owned.length },
      waiting: account.owned.filter((o) => !taken.has(o.id) && !coming.has(o.id)).length,
      coming: coming.size,
      reissued: account.owned.filter((o) => (taken.get(o.id)?.issue ?? o.issue) < o.issue).length,
      byItself: link.byItself,
    };
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    // a key that the supplier has forgotten is no link any more
    if (error.status === 403) return { state: 'unlinked', name: 'The supplier', ...nothing };
    return { state: 'away', name: '', ...nothing };
  }
}

/** The account, where one is linked and the supplier answers. */
async function accountOf(db: Queries): Promise<Account | undefined> {
  try {
    return await (await linkedClient(db, AT_A_PAGE)).account();
  } catch (error) {
    if (error instanceof Refusal) return undefined;
    throw error;
  }
}

/** A page of the catalogue, with what is owned and what is here already. */
export async function offers(
  db: Queries,
  { q = '', tag, pack, page = 1 }: { q?: string; tag?: string; pack?: string; page?: number },
): Promise<OfferPage> {
  const client = new SupplierClient(supplierAddress(), undefined, AT_A_PAGE);
  const [found, account, coming] = await Promise.all([
    client.takes({ q, page: String(page), ...(tag && { tag }), ...(pack && { pack }) }),
    accountOf(db),
    onTheWay(db),
  ]);
  const taken = await takenOf(
    db,
    found.takes.map((t) => t.id),
  );
  const owned = new Set(account?.owned.map((o) => o.id));
  const asOffer = (t: OfferedTake): Offer => ({
    ...t,
    owned: owned.has(t.id),
    onTheWay: coming.has(t.id),
    item: taken.get(t.id) ?? null,
  });
  return { ...found, takes: found.takes.map(asOffer) };
}

export async function offeredPacks(db: Queries): Promise<OfferedPackRow[]> {
  const client = new SupplierClient(supplierAddress(), undefined, AT_A_PAGE);
  const [packs, account] = await Promise.all([client.packs(), accountOf(db)]);
  const owned = new Set(account?.owned.map((o) => o.id));
  return packs.map((p) => ({ ...p, owned: p.takes.filter((t) => owned.has(t)).length }));
}

/** The beginning of a take, read like any file. @throws Refusal 422 where the supplier's file cannot be read */
export async function previewOf(client: SupplierClient, takeId: string): Promise<OfferPreview> {
  const { rig, map, restPose, clips } = await readInThread(await client.preview(takeId), 'preview.bvh');
  const clip = clips[0];
  if (!clip) throw new Refusal(422, 'no-motion', 'The supplier’s preview holds no motion.');
  return { rig, map, restPose, motion: Buffer.from(clip.packed).toString('base64') };
}

export interface FetchWish {
  /** Takes, or one pack. */
  readonly takes?: readonly string[] | undefined;
  readonly pack?: string | undefined;
  /** Credits for all of it, as the page showed them: nothing is bought for another price. 0 for what is owned. */
  readonly price: number;
  readonly folder: string;
}

/** Buys what is not owned, and brings it in, as one job. */
export async function fetchTakes(db: Database, person: Person, wish: FetchWish): Promise<{ id: string }> {
  await demandPath(db, person, wish.folder);
  const client = await linkedClient(db, AT_A_PAGE);
  const [account, packs] = await Promise.all([client.account(), wish.pack === undefined ? [] : client.packs()]);
  const pack = packs.find((p) => p.id === wish.pack);
  if (wish.pack !== undefined && !pack) throw new Refusal(422, 'no-such-pack', 'The supplier no longer has this pack.');
  const ids = [...new Set(pack?.takes ?? wish.takes ?? [])];
  if (ids.length === 0) throw new Refusal(400, 'empty', 'Choose at least one take.');
  const found = await offered(client, ids);
  const owned = new Set(account.owned.map((o) => o.id));
  const missing = found.filter((t) => !owned.has(t.id));
  const price = missing.length === 0 ? 0 : (pack?.price ?? missing.reduce((a, t) => a + t.price, 0));
  if (price !== wish.price)
    throw new Refusal(409, 'price-changed', `It costs ${many(price, 'credit')} now. Look at it again before you buy.`);
  if (price > account.credits)
    throw new Refusal(
      422,
      'too-few-credits',
      `The account has ${many(account.credits, 'credit')}, and ${price} are needed.`,
    );
  if (price > 0)
    await noteAudit(db, person.id, 'bought', `${pack?.name ?? many(missing.length, 'take')}, ${many(price, 'credit')}`);
  return addJob(db, person, {
    kind: 'fetch',
    title: pack?.name ?? (found.length === 1 ? found[0]!.name : `${many(found.length, 'take')} from the supplier`),
    order: { folder: wish.folder, ...(pack && { pack: { name: pack.name, takes: pack.takes } }) },
    parts: found.map((t) => ({
      name: t.name,
      state: 'ready',
      payload: {
        take: t.id,
        issue: t.issue,
        tags: t.tags,
        note: t.note,
        ...(!owned.has(t.id) && { buy: { what: pack?.id ?? t.id, price: pack?.price ?? t.price } }),
      },
    })),
  });
}

/** Takes by id, in their order. @throws Refusal 422 where the supplier has one of them no longer */
async function offered(client: SupplierClient, ids: readonly string[]): Promise<OfferedTake[]> {
  const found = new Map<string, OfferedTake>();
  const AT_ONCE = 20;
  for (let i = 0; i < ids.length; i += AT_ONCE)
    for (const t of (await client.takes({ ids: ids.slice(i, i + AT_ONCE).join(',') })).takes) found.set(t.id, t);
  return ids.map((id) => {
    const take = found.get(id);
    if (!take) throw new Refusal(422, 'no-such-take', 'The supplier no longer has one of these takes.');
    return take;
  });
}

/** Brings in all that is owned and neither here nor on its way. @returns the job, if there was anything */
export async function fetchOwned(
  db: Database,
  person: Pick<Person, 'id'>,
  tries = AT_A_PAGE,
): Promise<{ id: string } | undefined> {
  const client = await linkedClient(db, tries);
  const [{ owned }, taken, coming] = await Promise.all([client.account(), takenOf(db), onTheWay(db)]);
  const ids = owned.map((o) => o.id).filter((id) => !taken.has(id) && !coming.has(id));
  if (ids.length === 0) return undefined;
  const found = await offered(client, ids);
  return addJob(db, person, {
    kind: 'fetch',
    title: `${many(found.length, 'owned take')} from the supplier`,
    order: { folder: '' },
    parts: found.map((t) => ({
      name: t.name,
      state: 'ready',
      payload: { take: t.id, issue: t.issue, tags: t.tags, note: t.note },
    })),
  });
}

/** Where what is owned comes in by itself: in the name of whoever linked the account. */
export async function fetchOwnedIfWished(db: Database): Promise<{ id: string } | undefined> {
  const link = await linkOf(db);
  return link?.byItself ? fetchOwned(db, { id: link.linkedBy }, IN_A_JOB) : undefined;
}

/** Takes that are here in an older issue than the supplier has, with what changed and who uses them. */
export async function reissues(db: Queries): Promise<Reissue[]> {
  const client = await linkedClient(db, AT_A_PAGE);
  const [{ owned }, taken] = await Promise.all([client.account(), takenOf(db)]);
  const out: Reissue[] = [];
  for (const { id: take, issue: to } of owned) {
    const here = taken.get(take);
    if (!here || here.issue >= to || here.binned) continue;
    const changes: string[] = [];
    for (let n = here.issue + 1; n <= to; n++) changes.push((await client.issue(take, n)).changes);
    const [item, uses] = await Promise.all([getItem(db, here.id), usesOf(db, here.id)]);
    out.push({
      take,
      item: { id: here.id, name: here.name },
      from: here.issue,
      to,
      changes,
      changedHere: item.provenance.how !== 'intake',
      usedBy: [...uses.reels, ...uses.packs, ...uses.made].map((u) => u.name),
    });
  }
  return out;
}

/** Brings newer issues in, each as the next version of its item. */
export async function fetchReissues(db: Database, person: Person, takes: readonly string[]): Promise<{ id: string }> {
  const client = await linkedClient(db, AT_A_PAGE);
  const [found, taken] = [await offered(client, takes), await takenOf(db, takes)];
  return addJob(db, person, {
    kind: 'fetch',
    title: found.length === 1 ? `The new issue of ${found[0]!.name}` : `New issues of ${many(found.length, 'take')}`,
    order: { folder: '' },
    parts: found
      .filter((t) => (taken.get(t.id)?.issue ?? t.issue) < t.issue)
      .map((t) => ({
        name: t.name,
        state: 'ready',
        payload: { take: t.id, issue: t.issue, tags: t.tags, note: t.note },
      })),
  });
}
