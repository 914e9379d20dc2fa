// The thread that listens to the capture stage: when a message came is told by the moment it was here, however busy the page is.

/** What it tells the page. */
export type Heard =
  | {
      readonly type: 'message';
      readonly message: unknown /** On the clock of Date.now, milliseconds. */;
      readonly at: number;
    }
  | { readonly type: 'away' };

const AGAIN_MS = 2000;
const tell = (heard: Heard): void => postMessage(heard);
const now = (): number => performance.timeOrigin + performance.now();

async function listen(): Promise<void> {
  try {
    const answer = await fetch('/api/stage');
    const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader();
    if (!answer.ok || !reader) throw new Error('away');
    let rest = '';
    for (;;) {
      const { value, done } = await reader.read();
      if (done) break;
      const at = now();
      const lines = (rest + value).split('\n');
      rest = lines.pop() ?? '';
      for (const line of lines) if (line !== '') hear(line, at);
    }
  } catch {
    // told below
  }
  tell({ type: 'away' });
  setTimeout(() => void listen(), AGAIN_MS);
}

function hear(line: string, at: number): void {
  try {
    const message: unknown = JSON.parse(line);
    tell((message as { type?: unknown } | null)?.type === 'away' ? { type: 'away' } : { type: 'message', message, at });
  } catch {
    // half a line is passed over: the next one may be whole
  }
}

void listen();
