import type { ServerResponse } from 'node:http';

/** What can go wrong with an answer. */
export const FAULTS = ['slow', 'cut', 'error', 'length', 'doubled'] as const;
export type Fault = (typeof FAULTS)[number];

export interface FaultPlan {
  /** Share of answers with a fault. */
  share: number;
  kinds: readonly Fault[];
  /** How long a slow answer takes, milliseconds. */
  slowMs: number;
}

export interface Answer {
  readonly status: number;
  readonly type: string;
  readonly body: Uint8Array;
}

/** Sends an answer with a fault in it: late, cut off, not at all, with bytes missing, or twice over. */
export function sendWith(fault: Fault | undefined, answer: Answer, response: ServerResponse, slowMs: number): void {
  const { status, type, body } = answer;
  const head = (length: number): ServerResponse =>
    response.writeHead(status, { 'content-type': type, 'content-length': length, 'cache-control': 'no-store' });
  switch (fault) {
    case 'slow':
      setTimeout(() => head(body.length).end(body), slowMs);
      return;
    case 'cut':
      head(body.length).write(body.subarray(0, Math.floor(body.length / 2)), () => response.destroy());
      return;
    case 'error':
      response
        .writeHead(500, { 'content-type': 'application/json' })
        .end('{"error":{"message":"Something went wrong here."}}');
      return;
    case 'length':
      // as from a cache that holds a part of the file and believes it to be all
      head(Math.floor(0.8 * body.length)).end(body.subarray(0, Math.floor(0.8 * body.length)));
      return;
    case 'doubled':
      head(2 * body.length).end(new Uint8Array(Buffer.concat([body, body])));
      return;
    default:
      head(body.length).end(body);
  }
}
