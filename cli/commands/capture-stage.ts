import { WebSocketServer } from 'ws';
import { guessBodyMap, type Motion, proofOn, resample, type SkeletonRig, standIn } from '../../motion/index';
import { seeded } from '../../motion/math/random';
import { firstClip, load } from '../files';
import { type Options, readNumber, readWhole } from '../options';

interface Act {
  readonly name: string;
  readonly rig: SkeletonRig;
  readonly motion: Motion;
}

/** What goes wrong on the way, as shares and seconds. */
interface Faults {
  readonly jitterS: number;
  readonly loss: number;
  readonly reorder: number;
  readonly dropout: number;
}

/** Frames that a joint stays lost once it is. */
const LOST_FRAMES = 30;
/** How long a frame that overtakes another one waits, in frames. */
const OVERTAKEN = 3;

/**
 * velvet-reel capture-stage: a stand-in for a capture stage. Everyone who connects gets the greeting, then every performer's
 * frames by the clock; see docs/formats for the messages.
 */
export async function captureStage(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const port = readWhole(options.port, 'port') ?? 4720;
  const fps = readNumber(options.fps, 'fps', 1, 240) ?? 60;
  const faults: Faults = {
    jitterS: (readNumber(options.jitter, 'jitter', 0, 2000) ?? 0) / 1000,
    loss: (readNumber(options.loss, 'loss', 0, 100) ?? 0) / 100,
    reorder: (readNumber(options.reorder, 'reorder', 0, 100) ?? 0) / 100,
    dropout: (readNumber(options.dropout, 'dropout', 0, 100) ?? 0) / 100,
  };
  const restartS = readNumber(options.restart, 'restart', 0.1, 86_400);
  const random = seeded(readWhole(options.seed, 'seed') ?? 1);
  const acts: Act[] = [];
  for (const file of files) {
    const body = await load(file, options);
    const clip = firstClip(body, file);
    acts.push({ name: clip.name, rig: body.rig, motion: resample(body.rig, clip.motion, fps) });
  }
  const asked = readWhole(options.performers, 'performers') ?? Math.max(1, acts.length);
  for (let i = acts.length; i < asked; i++) acts.push(trying(`Performer ${i + 1}`, fps, i));
  const server = new WebSocketServer({ host: '127.0.0.1', port });
  await new Promise<void>((done, failed) => server.once('listening', done).once('error', failed));
  let session = newSession(random);
  let begun = performance.now();
  let sent = 0;
  const greet = (): string => JSON.stringify({ type: 'hello', session, fps, performers: acts.map(described) });
  const say = (text: string): void => {
    // whoever does not keep up is not waited for
    for (const client of server.clients)
      if (client.readyState === 1 && client.bufferedAmount < 2 ** 20) client.send(text);
  };
  server.on('connection', (client) => {
    client.on('error', () => client.terminate());
    client.send(greet());
  });
  const lostUntil = acts.map(({ rig }) => new Int32Array(rig.names.length).fill(-1));
  const step = (): void => {
    const seconds = (performance.now() - begun) / 1000;
    if (restartS !== undefined && seconds > restartS) {
      session = newSession(random);
      begun = performance.now();
      sent = 0;
      for (const l of lostUntil) l.fill(-1);
      say(greet());
      return;
    }
    for (; sent <= seconds * fps; sent++)
      acts.forEach((act, i) => {
        const text = frameOf(act, `p${i + 1}`, session, sent, lostUntil[i]!, faults, random);
        if (random() < faults.loss) return;
        const wait = faults.jitterS * random() + (random() < faults.reorder ? OVERTAKEN / fps : 0);
        if (wait > 0.0005) setTimeout(say, 1000 * wait, text);
        else say(text);
      });
  };
  const timer = setInterval(step, Math.max(1, 500 / fps));
  print(
    `capture stage on ws://127.0.0.1:${port}, ${acts.length} performing at ${fps} frames a second; Ctrl-C stops it`,
  );
  await new Promise<void>((done) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => done());
  });
  clearInterval(timer);
  for (const client of server.clients) client.terminate();
  server.close();
}

const newSession = (random: () => number): string =>
  Math.floor(random() * 2 ** 32).toString(36) + Date.now().toString(36);

/** A body that goes through what it can do, over and over. */
function trying(name: string, fps: number, turn: number): Act {
  const rig = standIn('T', 1.6 + 0.1 * (turn % 4));
  const { motion } = proofOn({ rig, map: guessBodyMap(rig) });
  return { name, rig, motion: resample(rig, motion, fps) };
}

const round = (x: number): number => Math.round(x * 1e6) / 1e6;

function described({ name, rig }: Act, i: number): object {
  return {
    id: `p${i + 1}`,
    name,
    joints: rig.names.map((joint, j) => ({
      name: joint,
      parent: rig.parents[j]!,
      offset: [...rig.restT.subarray(3 * j, 3 * j + 3)].map(round),
      rest: [...rig.restR.subarray(4 * j, 4 * j + 4)].map(round),
    })),
  };
}

function frameOf(
  { rig, motion }: Act,
  performer: string,
  session: string,
  number: number,
  lostUntil: Int32Array,
  faults: Faults,
  random: () => number,
): string {
  const f = number % motion.frameCount;
  const n = rig.names.length;
  const turns = rig.names.map((_, j) => {
    if (random() < faults.dropout / LOST_FRAMES) lostUntil[j] = number + LOST_FRAMES;
    if (number < lostUntil[j]!) return null;
    return [...motion.turns.subarray(4 * (f * n + j), 4 * (f * n + j) + 4)].map(round);
  });
  const track = motion.places.find((t) => t.joint === 0)?.values;
  const place = track ? track.subarray(3 * f, 3 * f + 3) : rig.restT.subarray(0, 3);
  return JSON.stringify({ type: 'frame', session, performer, number, place: [...place].map(round), turns });
}
