import { readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { Options } from '../options';
import { readNumber } from '../options';
import { CommandError, UsageError } from '../usage';

interface Item {
  id: string;
  name: string;
  kind: string;
  tags: string[];
  facts: { frameCount: number; fps: number };
}

/** Why a library refused: its own sentence. */
export class LibraryError extends CommandError {
  override readonly name = 'LibraryError';
}

/** Where the library is and who asks: by options, else by the environment. */
function connection(options: Options): { url: string; token: string } {
  const url = options.url ?? process.env.VELVET_URL ?? 'http://127.0.0.1:3000';
  const token = options.token ?? process.env.VELVET_TOKEN;
  if (!token)
    throw new UsageError('it needs a token: make one under For programs and give it by --token or VELVET_TOKEN');
  return { url: url.replace(/\/$/, ''), token };
}

async function ask(options: Options, method: string, path: string, body?: unknown): Promise<Response> {
  const { url, token } = connection(options);
  const form = body instanceof FormData;
  let answer: Response;
  try {
    answer = await fetch(`${url}/api/v1${path}`, {
      method,
      headers: {
        authorization: `Bearer ${token}`,
        ...(body !== undefined && !form && { 'content-type': 'application/json' }),
      },
      ...(body !== undefined && { body: form ? body : JSON.stringify(body) }),
    });
  } catch {
    throw new LibraryError(`${url} cannot be reached. Is the application running there?`);
  }
  if (answer.ok) return answer;
  const said = (await answer.json().catch(() => ({}))) as { message?: string };
  throw new LibraryError(said.message ?? `${url} answered with ${answer.status}.`);
}

const json = async <T>(answer: Promise<Response>): Promise<T> => (await answer).json() as Promise<T>;

/** velvet-reel library find|get|add|export|tag|jobs: the library's interface for programs, from the command line. */
export async function library(
  [what, ...rest]: string[],
  options: Options,
  print: (text: string) => void,
): Promise<void> {
  const words = rest.join(' ');
  const one = (): string => {
    if (rest.length !== 1) throw new UsageError(`library ${what} takes one item`);
    return encodeURIComponent(rest[0]!);
  };
  switch (what) {
    case 'find': {
      const limit = readNumber(options.limit, 'limit', 1, 500) ?? 50;
      const list = await json<{ items: Item[]; found: number; total: number }>(
        ask(options, 'GET', `/items?${new URLSearchParams({ q: words, limit: String(limit) })}`),
      );
      if (options.json) return print(JSON.stringify(list, null, 2));
      for (const i of list.items)
        print(
          `${i.id}  ${i.kind.padEnd(5)} ${String(i.facts.frameCount).padStart(6)} f  ${i.name}${i.tags.length > 0 ? `  [${i.tags.join(', ')}]` : ''}`,
        );
      return print(`${list.items.length} of ${list.found} found, ${list.total} in all`);
    }
    case 'get':
      return print(JSON.stringify(await json(ask(options, 'GET', `/items/${one()}`)), null, 2));
    case 'add': {
      if (rest.length === 0) throw new UsageError('library add takes files');
      for (const path of rest) {
        const form = new FormData();
        form.append('file', new Blob([readFileSync(path)]), basename(path));
        if (options.skeleton)
          form.append('skeleton', new Blob([readFileSync(options.skeleton)]), basename(options.skeleton));
        const report = await json<{
          state: string;
          message: string;
          result: { items: { id: string; name: string }[]; cast: { id: string; name: string }[] };
        }>(ask(options, 'POST', '/intake', form));
        if (options.json) print(JSON.stringify(report));
        else if (report.state === 'refused') print(`refused  ${report.message}`);
        else for (const i of [...report.result.items, ...report.result.cast]) print(`${i.id}  ${i.name}`);
      }
      return;
    }
    case 'export': {
      const id = one();
      const format = options.format ?? 'glb';
      const query = new URLSearchParams({
        format,
        ...(options.fps && { fps: options.fps }),
        ...(options.to && { onto: options.to }),
        ...(options['no-mesh'] && { mesh: '0' }),
        ...(options.keys && { keys: options.keys }),
      });
      const answer = await ask(options, 'GET', `/items/${id}/export?${query}`);
      const told = /filename\*=UTF-8''(.+)$/.exec(answer.headers.get('content-disposition') ?? '')?.[1];
      // a name from elsewhere never leads out of this folder
      const out =
        options.out ?? join('.', basename(decodeURIComponent(told ?? `${id}.${format}`)).replace(/[\\/]/g, '_'));
      writeFileSync(out, new Uint8Array(await answer.arrayBuffer()));
      return print(options.json ? JSON.stringify({ out }) : `written ${out}`);
    }
    case 'tag': {
      const [id, ...tags] = rest;
      if (id === undefined || tags.length === 0) throw new UsageError('library tag takes an item and tags');
      const done = await json<{ item: Item }>(
        ask(options, 'PATCH', `/items/${encodeURIComponent(id)}`, { change: { addTags: tags } }),
      );
      return print(options.json ? JSON.stringify(done.item) : `${done.item.name}: ${done.item.tags.join(', ')}`);
    }
    case 'jobs': {
      const jobs = await json<{ id: string; title: string; state: string; counts: Record<string, number> }[]>(
        ask(options, 'GET', '/jobs'),
      );
      if (options.json) return print(JSON.stringify(jobs, null, 2));
      for (const j of jobs)
        print(
          `${j.id}  ${j.state.padEnd(9)} ${j.counts.done} done, ${j.counts.refused} refused, ${(j.counts.ready ?? 0) + (j.counts.waiting ?? 0) + (j.counts.running ?? 0)} to do  ${j.title}`,
        );
      return;
    }
    default:
      throw new UsageError('library takes find, get, add, export, tag or jobs');
  }
}
