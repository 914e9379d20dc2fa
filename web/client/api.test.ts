import { ApiError, getBytes, getJson, sendFile, sendJson } from './api';

const real = { fetch: globalThis.fetch, xhr: globalThis.XMLHttpRequest };
const asked: { path: string; init: RequestInit | undefined }[] = [];
const answer = (run: () => Response): void => {
  globalThis.fetch = (async (path: string, init?: RequestInit) => {
    asked.push({ path, init });
    return run();
  }) as typeof fetch;
};
beforeEach(() => asked.splice(0));
afterAll(() => {
  globalThis.fetch = real.fetch;
  globalThis.XMLHttpRequest = real.xhr;
});
const refusalOf = (run: Promise<unknown>): Promise<ApiError> =>
  run.then(
    () => {
      throw new Error('it was not refused');
    },
    (error: ApiError) => error,
  );

test('what the server says in a refusal reaches the page whole', async () => {
  answer(() =>
    Response.json({ code: 'conflict', message: 'Bram has changed it.', details: { at: 3 } }, { status: 409 }),
  );
  const refused = await refusalOf(sendJson('PATCH', '/api/v1/items/a', { note: 'x' }));
  expect(refused).toBeInstanceOf(ApiError);
  expect([refused.status, refused.code, refused.message, refused.details]).toEqual([
    409,
    'conflict',
    'Bram has changed it.',
    { at: 3 },
  ]);
  expect(asked[0]!.init).toMatchObject({ method: 'PATCH', body: '{"note":"x"}' });
});

test('what is sent arrives even when its page is left, as far as browsers allow', async () => {
  answer(() => Response.json({}));
  const send = (letters: number) => sendJson('PATCH', '/api/v1/items/a', { note: 'x'.repeat(letters) });
  await Promise.all([send(20_000), send(20_000), send(5000)]);
  answer(() => new Response('gone', { status: 502 }));
  await refusalOf(send(20_000));
  answer(() => Response.json({}));
  await send(20_000);
  await send(40_000);
  expect(asked.map((a) => a.init?.keepalive)).toEqual([true, false, true, true, true, false]);
});

test('an answer that is no refusal of ours still becomes a sentence', async () => {
  answer(() => new Response('<html>Bad gateway</html>', { status: 502 }));
  const refused = await refusalOf(getBytes('/api/v1/strips'));
  expect([refused.code, refused.message]).toEqual(['unexpected', 'The server answered with 502.']);
});

test('a server that is away is told from one that refuses', async () => {
  answer(() => {
    throw new TypeError('fetch failed');
  });
  const refused = await refusalOf(getJson('/api/v1/items'));
  expect([refused.status, refused.code]).toEqual([0, 'unreachable']);
});

test('bytes come as they are', async () => {
  answer(() => new Response(Uint8Array.of(0, 255, 7)));
  expect([...(await getBytes('/api/v1/motion'))]).toEqual([0, 255, 7]);
});

describe('sending a file', () => {
  class Request {
    static last: Request;
    upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {};
    status = 0;
    response: unknown = null;
    sent: FormData | undefined;
    onload?: () => void;
    onerror?: () => void;
    onabort?: () => void;
    constructor() {
      Request.last = this;
    }
    open(): void {}
    send(form: FormData): void {
      this.sent = form;
    }
    abort(): void {
      this.onabort?.();
    }
    end(status: number, response: unknown): void {
      this.status = status;
      this.response = response;
      this.onload?.();
    }
  }
  const shares: number[] = [];
  const send = (skeleton?: File) => {
    shares.splice(0);
    globalThis.XMLHttpRequest = Request as unknown as typeof XMLHttpRequest;
    const stop = new AbortController();
    const file = new File(['HIERARCHY'], 'haul.bvh');
    const done = sendFile<{ id: string }>('POST', '/x', file, skeleton, (s) => shares.push(s), stop.signal);
    return { done, stop, request: Request.last };
  };

  test('tells how far it is and gives the answer', async () => {
    const { done, request } = send(new File(['bones'], 'haul.asf'));
    request.upload.onprogress!({ loaded: 5, total: 20 });
    request.upload.onprogress!({ loaded: 0, total: 0 });
    request.end(200, { id: 'i1' });
    expect(await done).toEqual({ id: 'i1' });
    expect(shares).toEqual([0.25, 0]);
    expect([...request.sent!.entries()].map(([k, v]) => [k, (v as File).name])).toEqual([
      ['file', 'haul.bvh'],
      ['skeleton', 'haul.asf'],
    ]);
  });

  test('can be called off, refused, or find nobody', async () => {
    const off = send();
    off.stop.abort();
    expect((await refusalOf(off.done)).code).toBe('cancelled');
    const refused = send();
    refused.request.end(413, { code: 'too-large', message: 'It is larger than 200 MB.' });
    expect(await refusalOf(refused.done)).toMatchObject({ status: 413, message: 'It is larger than 200 MB.' });
    const odd = send();
    odd.request.end(500, null);
    expect((await refusalOf(odd.done)).message).toBe('The server answered with 500.');
    const away = send();
    away.request.onerror!();
    expect((await refusalOf(away.done)).code).toBe('unreachable');
  });
});
