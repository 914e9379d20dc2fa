import { type Database, database } from '../db/client';
import { packsWith } from '../services/packs';
import { Catalogue, type CatalogueAnswer, type CatalogueQuery } from './catalogue';
import { type Change, Follower } from './follow';
import { loadInto, readItems, surroundings } from './load';

export type Listener = (changes: readonly Change[]) => void;

/** How often a process looks for what others did, milliseconds. */
const LOOK_MS = 400;

/**
 * The catalogue of this process: loaded once, then kept in step with the database by following what is done there.
 * Before every search it looks whether something was done, so that nobody misses their own change.
 */
export class LiveCatalogue {
  private catalogue = new Catalogue();
  private readonly follower: Follower;
  private readonly listeners = new Set<Listener>();
  private ready: Promise<void> | undefined;
  private timer: ReturnType<typeof setInterval> | undefined;
  private applying: Promise<void> = Promise.resolve();
  private unapplied: Change[] = [];

  constructor(private readonly db: Database) {
    this.follower = new Follower(db);
  }

  /** Loads and starts to follow. */
  open(): Promise<void> {
    this.ready ??= (async () => {
      // first where we are, then what there is: a change in between is applied twice, never missed
      await this.follower.start();
      await loadInto(this.db, this.catalogue);
      this.timer = setInterval(() => void this.look().catch(() => undefined), LOOK_MS);
      this.timer.unref?.();
    })().catch((error) => {
      this.ready = undefined;
      throw error;
    });
    return this.ready;
  }

  close(): void {
    clearInterval(this.timer);
  }

  get size(): number {
    return this.catalogue.size;
  }

  listen(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  async search(query: CatalogueQuery): Promise<CatalogueAnswer> {
    await this.open();
    await this.look();
    return this.catalogue.search(query);
  }

  async all(query: CatalogueQuery): Promise<string[]> {
    await this.open();
    await this.look();
    return this.catalogue.all(query);
  }

  /** Distances to what moves alike. */
  async alike(id: string): Promise<Map<string, number>> {
    await this.open();
    await this.look();
    return this.catalogue.alike(id);
  }

  /** Names of tags and so on, for completion. @param outside folders that stay unnamed, with what is told by their items alone */
  values(outside: ReadonlySet<string>): Record<string, string[]> {
    const { rows, around } = this.catalogue;
    return {
      tag: outside.size === 0 ? [...rows.tagNames.list] : rows.tagsBeside(outside),
      by: [...around.peopleNames.values()],
      made: [...around.castNames.values()],
      folder: [...around.folderNames].flatMap(([id, name]) => (outside.has(id) ? [] : [name])),
    };
  }

  private look(): Promise<void> {
    const next = this.applying.then(async () => {
      // what could not be applied is kept and tried again: the follower tells each change once
      this.unapplied.push(...(await this.follower.poll()));
      if (this.unapplied.length === 0) return;
      const done = this.unapplied;
      await this.apply(done);
      this.unapplied = [];
      for (const listener of this.listeners) listener(done);
    });
    // one failed look does not stop the ones after it
    this.applying = next.catch(() => undefined);
    return next;
  }

  private async apply(done: readonly Change[]): Promise<void> {
    if (done.some((c) => c.action === 'reload') || this.catalogue.wasteful) {
      const fresh = new Catalogue();
      await loadInto(this.db, fresh);
      this.catalogue = fresh;
      return;
    }
    if (done.some((c) => c.subject !== 'item' || c.action === 'favourite'))
      this.catalogue.around = await surroundings(this.db);
    const touched = [...new Set(done.filter((c) => c.subject === 'item').map((c) => c.subjectId))];
    if (touched.length === 0) return;
    const packs = await packsWith(this.db, touched);
    const ids = [...new Set([...touched, ...packs])];
    for (let i = 0; i < ids.length; i += 2000) {
      const part = ids.slice(i, i + 2000);
      const found = await readItems(this.db, part);
      const there = new Set(found.map((f) => f.id));
      for (const id of part) if (!there.has(id)) this.catalogue.remove(id);
      for (const item of found) this.catalogue.put(item);
    }
  }
}

const kept = globalThis as { velvetCatalogue?: LiveCatalogue };

/** The one catalogue of this process. */
export function catalogue(): LiveCatalogue {
  kept.velvetCatalogue ??= new LiveCatalogue(database());
  return kept.velvetCatalogue;
}
