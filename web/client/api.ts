/** A refused request: what the server said, fit to be shown. */
export class ApiError extends Error {
  override readonly name = 'ApiError';

  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details?: Record<string, unknown>,
  ) {
    super(message);
  }
}

/** Where the server's interface lies. */
export const API = '/api/v1';

async function check(answer: Response): Promise<Response> {
  if (answer.ok) return answer;
  const body = (await answer.json().catch(() => ({}))) as {
    code?: string;
    message?: string;
    details?: Record<string, unknown>;
  };
  throw new ApiError(
    answer.status,
    body.code ?? 'unexpected',
    body.message ?? texts.theServerAnsweredWith(answer.status),
    body.details,
  );
}

const reach = async (path: string, init?: RequestInit): Promise<Response> => {
  try {
    return await fetch(path, init);
  } catch {
    throw new ApiError(0, 'unreachable', texts.theServerCannotBe);
  }
};

export const getJson = async <T>(path: string, signal?: AbortSignal): Promise<T> =>
  (await check(await reach(path, signal && { signal }))).json() as Promise<T>;

export const getBytes = async (path: string): Promise<Uint8Array> =>
  new Uint8Array(await (await check(await reach(path))).arrayBuffer());

export async function sendJson<T>(
  method: 'POST' | 'PATCH' | 'PUT' | 'DELETE',
  path: string,
  body: unknown,
): Promise<T> {
  const text = JSON.stringify(body);
  // what was done arrives even when its page is left at once; browsers limit how much may be on its way like that
  const kept = onTheirWay + text.length < MOST_KEPT ? text.length : 0;
  onTheirWay += kept;
  try {
    const answer = await reach(path, {
      method,
      headers: { 'content-type': 'application/json' },
      body: text,
      keepalive: kept > 0,
    });
    return (await check(answer)).json() as Promise<T>;
  } finally {
    onTheirWay -= kept;
  }
}
/** Half of the 64 KiB that browsers allow, as letters can take more than a byte. */
const MOST_KEPT = 32_000;
let onTheirWay = 0;

/** Sends a file, with the skeleton that goes with it, with progress, which fetch cannot tell. */
export function sendFile<T>(
  method: 'POST' | 'PUT',
  path: string,
  file: File,
  skeleton: File | undefined,
  onProgress: (share: number) => void,
  signal: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open(method, path);
    request.responseType = 'json';
    request.upload.onprogress = (e) => onProgress(e.total > 0 ? e.loaded / e.total : 0);
    request.onload = () => {
      if (request.status < 300) return resolve(request.response as T);
      const body = (request.response ?? {}) as { code?: string; message?: string };
      reject(
        new ApiError(
          request.status,
          body.code ?? 'unexpected',
          body.message ?? texts.theServerAnsweredWith(request.status),
        ),
      );
    };
    request.onerror = () => reject(new ApiError(0, 'unreachable', texts.theServerCannotBe));
    request.onabort = () => reject(new ApiError(0, 'cancelled', 'Cancelled.'));
    signal.addEventListener('abort', () => request.abort());
    const form = new FormData();
    form.append('file', file, file.name);
    if (skeleton) form.append('skeleton', skeleton, skeleton.name);
    request.send(form);
  });
}

/**
 * Brings one file that the page has made into the library, as if it had been dropped on the Intake place.
 * @throws ApiError with the reason where it is refused
 */
export async function bringInFile(file: File): Promise<IntakeRow> {
  const { signal } = new AbortController();
  const row = await sendFile<IntakeRow>('POST', `${API}/intake`, file, undefined, () => undefined, signal);
  if (row.state === 'refused') throw new ApiError(400, row.code, row.message);
  return row;
}

import type { IntakeRow } from '@/contract';
import { api as texts } from './texts';
