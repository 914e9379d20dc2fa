// What a component needs to stand on its own in a test: a server that answers from a list, somebody who is signed in, a
// router, and the providers of the application.
import '@testing-library/jest-dom/jest-globals';
import { TextDecoder, TextEncoder } from 'node:util';
import { jest } from '@jest/globals';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, configure, render, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { AppRouterContext } from 'next/dist/shared/lib/app-router-context.shared-runtime';
import { PathnameContext, SearchParamsContext } from 'next/dist/shared/lib/hooks-client-context.shared-runtime';
import { NuqsTestingAdapter } from 'nuqs/adapters/testing';
import { Tooltip } from 'radix-ui';
import type { ReactNode } from 'react';
import { Toaster } from 'sonner';
import type { Me } from '../client/session';
import { useUndo } from '../client/undo';
import { DocumentsProvider } from '../documents/use-document';

export interface Sent {
  method: string;
  /** Without the host, with the query. */
  path: string;
  body: unknown;
}

type Answer = unknown | ((sent: Sent) => unknown);

/** An answer other than 200. */
export class Refused {
  constructor(
    readonly status: number,
    readonly message: string,
    readonly more: Record<string, unknown> = {},
  ) {}
}

/** A server that answers "GET /api/v1/items" and its like from a list, and remembers what it was asked. */
export class FakeServer {
  readonly sent: Sent[] = [];
  private readonly answers = new Map<string, Answer>();

  constructor(answers: Record<string, Answer> = {}) {
    this.answer(answers);
    globalThis.fetch = ((input: unknown, init?: RequestInit) => this.serve(String(input), init)) as typeof fetch;
    const serve = this.serve.bind(this);
    globalThis.XMLHttpRequest = class extends FakeRequest {
      protected override serve = serve;
    } as never;
  }

  answer(answers: Record<string, Answer>): void {
    for (const [key, value] of Object.entries(answers)) this.answers.set(key, value);
  }

  /** What it answers now. */
  keyed(key: string): Answer {
    return this.answers.get(key);
  }

  /** What was sent to an address, whatever its query. */
  to(method: string, path: string): Sent[] {
    return this.sent.filter((s) => s.method === method && s.path.split('?')[0] === path);
  }

  private async serve(path: string, init: RequestInit = {}): Promise<Response> {
    const method = init.method ?? 'GET';
    const sent: Sent = {
      method,
      path,
      body:
        init.body instanceof FormData
          ? [...init.body.values()].map((f) => (f as File).name)
          : typeof init.body === 'string' && init.body !== ''
            ? JSON.parse(init.body)
            : undefined,
    };
    this.sent.push(sent);
    const key = [`${method} ${path}`, `${method} ${path.split('?')[0]}`].find((k) => this.answers.has(k));
    const found = key === undefined ? new Refused(404, `No answer for ${method} ${path}.`) : this.answers.get(key);
    const answer = typeof found === 'function' ? await (found as (s: Sent) => unknown)(sent) : found;
    if (answer instanceof Refused)
      return json(answer.status, { message: answer.message, code: 'test', ...answer.more });
    if (answer instanceof Uint8Array) return bytes(answer);
    return json(200, answer);
  }
}

/** The part of a browser's request that sending files with progress needs; what is sent is told by the files' names. */
class FakeRequest {
  protected serve!: (path: string, init: RequestInit) => Promise<Response>;
  readonly upload: { onprogress?: (e: { loaded: number; total: number }) => void } = {};
  onload?: () => void;
  onerror?: () => void;
  onabort?: () => void;
  status = 0;
  response: unknown;
  private aborted = false;
  private asked = { method: '', path: '' };

  open(method: string, path: string): void {
    this.asked = { method, path };
  }

  abort(): void {
    this.aborted = true;
    this.onabort?.();
  }

  send(body: FormData): void {
    this.upload.onprogress?.({ loaded: 1, total: 2 });
    void this.serve(this.asked.path, { method: this.asked.method, body }).then(async (answer) => {
      if (this.aborted) return;
      this.status = answer.status;
      this.response = await answer.json();
      this.onload?.();
    });
  }
}

// jsdom has no Response; this is what the application uses of one
const json = (status: number, body: unknown): Response =>
  ({
    ok: status < 300,
    status,
    headers: new Headers(),
    json: async () => structuredClone(body),
  }) as unknown as Response;
const bytes = (data: Uint8Array): Response =>
  ({
    ok: true,
    status: 200,
    headers: new Headers(),
    arrayBuffer: async () => data.slice().buffer,
    blob: async () => new Blob([data.slice()]),
  }) as unknown as Response;

export const ME: Me = { id: 'me', name: 'Ilse', role: 'librarian', email: 'ilse@ferry.example', performerId: null };

export interface Stood {
  user: ReturnType<typeof userEvent.setup>;
  server: FakeServer;
  client: QueryClient;
  router: { push: jest.Mock; replace: jest.Mock };
  /** Parameters of the address after the last change. */
  address: () => URLSearchParams;
}

/** Puts a component on the page, with somebody signed in. */
export function stand(
  what: ReactNode,
  {
    answers = {},
    me = {},
    address = '',
  }: { answers?: Record<string, Answer>; me?: Partial<Me>; address?: string } = {},
): Stood {
  cleanup();
  useUndo.setState({ steps: [], undone: [] });
  const server = new FakeServer(answers);
  const client = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: 10_000 } } });
  client.setQueryData(['me'], { me: { ...ME, ...me } });
  const router = { push: jest.fn(), replace: jest.fn(), prefetch: jest.fn(), refresh: jest.fn(), back: jest.fn() };
  let params = new URLSearchParams(address);
  render(
    <AppRouterContext.Provider value={router as never}>
      <PathnameContext.Provider value="/library">
        <SearchParamsContext.Provider value={params}>
          <QueryClientProvider client={client}>
            <NuqsTestingAdapter
              hasMemory
              searchParams={params}
              onUrlUpdate={(u) => {
                params = u.searchParams;
              }}
            >
              <Tooltip.Provider>
                <DocumentsProvider>{what}</DocumentsProvider>
                <Toaster />
              </Tooltip.Provider>
            </NuqsTestingAdapter>
          </QueryClientProvider>
        </SearchParamsContext.Provider>
      </PathnameContext.Provider>
    </AppRouterContext.Provider>,
  );
  return { user: userEvent.setup({ delay: null }), server, client, router, address: () => params };
}

/** The note that comes up at the edge of the page. */
export const told = (text: string | RegExp): Promise<HTMLElement> => screen.findByText(text);

/** Chooses from a list that opens. */
export async function pick(user: Stood['user'], label: string, option: string): Promise<void> {
  await user.click(await screen.findByRole('combobox', { name: label }));
  const offered = await screen.findAllByRole('option', { name: option });
  await user.click(offered.find((o) => !(o instanceof HTMLOptionElement))!);
}

/** Waits until something was sent to an address and gives the last of it. */
export async function sentTo(server: FakeServer, method: string, path: string): Promise<Sent> {
  await waitFor(() => expect(server.to(method, path)).not.toHaveLength(0));
  return server.to(method, path).at(-1)!;
}

// what jsdom leaves out and the packages of the interface expect
Element.prototype.scrollIntoView ??= () => undefined;
Element.prototype.hasPointerCapture ??= () => false;
Element.prototype.setPointerCapture ??= () => undefined;
Element.prototype.releasePointerCapture ??= () => undefined;
globalThis.ResizeObserver ??= class {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
} as never;
window.matchMedia ??= ((query: string) => ({
  matches: false,
  media: query,
  addEventListener: () => undefined,
  removeEventListener: () => undefined,
  addListener: () => undefined,
  removeListener: () => undefined,
})) as never;
globalThis.TextEncoder ??= TextEncoder;
globalThis.TextDecoder ??= TextDecoder as never;
URL.createObjectURL ??= () => 'blob:test';
URL.revokeObjectURL ??= () => undefined;
globalThis.structuredClone ??= ((x: unknown) => JSON.parse(JSON.stringify(x))) as never;
// a download is a click on a link, which jsdom cannot follow
HTMLAnchorElement.prototype.click = function click(this: HTMLAnchorElement) {
  this.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: false }));
};
// what is hidden is not asked for here, and computing every style to know takes most of the time; what is waited for comes, also
// on a machine that does ten other things
configure({ defaultHidden: true, asyncUtilTimeout: 60_000 });
globalThis.PointerEvent ??= class extends MouseEvent {
  readonly pointerId: number;
  constructor(type: string, init: PointerEventInit = {}) {
    super(type, init);
    this.pointerId = init.pointerId ?? 1;
  }
} as never;
HTMLCanvasElement.prototype.getContext = (() => null) as never;
