import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { party } from '../cli/files';
import { type Figure, type Imported, importFile, type Motion, type Party } from '../motion/index';

/** A capture or a character that nobody here made. */
export interface Foreign {
  readonly name: string;
  readonly file: Imported;
  readonly party: Party;
  readonly figure: Figure | undefined;
}

export interface ForeignWorld {
  readonly captures: readonly (Foreign & { readonly motion: Motion; readonly path: string })[];
  readonly characters: readonly Foreign[];
  readonly judge: Judge;
  readonly folder: string;
}

/** What the judge, which shares no code with the project, is asked for. */
export interface Judge {
  load(path: string): Promise<JudgedBody>;
  // biome-ignore lint/suspicious/noExplicitAny: the judge is plain JavaScript and answers with a free form
  judge(source: JudgedBody, sourceRoles: Roles, result: JudgedBody, resultRoles: Roles, options: object): any;
  rolesFor(body: JudgedBody, key?: string): Roles;
}
export type Roles = Record<string, number>;
export interface JudgedBody {
  readonly names: string[];
  readonly n: number;
}

const FETCH = ['../shared/tools/foreign/fetch.sh'];

/** Opens the folder of foreign captures and characters; brings them where they are not there yet. */
export async function openForeign(folder = process.env.VELVET_FOREIGN ?? '.data/foreign'): Promise<ForeignWorld> {
  const dir = resolve(folder);
  if (!existsSync(join(dir, 'chars'))) {
    const script = FETCH.find((f) => existsSync(f));
    if (!script)
      throw new Error(`${dir} holds no captures/ and chars/, and no script that fetches them is beside this checkout.`);
    execFileSync('bash', [script, dir], { stdio: 'inherit' });
  }
  const open = async (kind: string, name: string): Promise<Foreign & { path: string }> => {
    const path = join(dir, kind, name);
    const file = await importFile(new Uint8Array(await readFile(path)), name);
    return { name: name.replace(/\.\w+$/, ''), file, party: party(file), figure: file.figure, path };
  };
  const list = (kind: string, ending: RegExp): string[] =>
    readdirSync(join(dir, kind))
      .filter((f) => ending.test(f))
      .sort();
  const captures = [];
  for (const name of list('captures', /\.bvh$/)) {
    const one = await open('captures', name);
    captures.push({ ...one, motion: one.file.clips[0]!.motion });
  }
  const characters = [];
  for (const name of list('chars', /\.glb$/)) characters.push(await open('chars', name));
  const judge = (await import(pathToFileURL(join(dir, 'judge.mjs')).href)) as Judge;
  return { captures, characters, judge, folder: dir };
}
