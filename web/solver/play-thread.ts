// The thread of a play-through: holds its motions on the character and goes on frame by frame, so that neither the page nor
// the solver waits for a join.
import { type Motion, mapTracks, Player, type PlayGraph, putOn, type Rig, unpackMotion } from '@velvet-reel/motion';
import { expose, transfer } from 'comlink';
import { type PartyJson, partyFromJson } from '../wishes/party';

/** An item that a play-through shows: its motion, and whose; null where it is on the character's own rig. */
export interface PlaySource {
  readonly itemId: string;
  readonly motionHash: string;
  readonly source: PartyJson | null;
}

/** What is pressed, as it travels. */
export interface Pressed {
  readonly held: readonly string[];
  readonly pressed: readonly string[];
  readonly numbers: readonly (readonly [string, number])[];
}

/** One frame to be shown. */
export interface PlayShown {
  readonly pose: Motion;
  readonly state: string;
  readonly way: string | null;
  readonly share: number;
}

const motions = new Map<string, Promise<Motion>>();
let player: Player | undefined;
let rig: Rig | undefined;

async function load(hash: string): Promise<Motion> {
  const answer = await fetch(`/api/v1/motions/${hash}`);
  if (!answer.ok) throw new Error('A motion could not be loaded. Check the connection and try again.');
  return unpackMotion(new Uint8Array(await answer.arrayBuffer()));
}

/** A frame of a motion as a motion of its own. */
function frameOf(motion: Motion, frame: number, joints: number): Motion {
  return {
    fps: motion.fps,
    frameCount: 1,
    turns: motion.turns.slice(4 * joints * frame, 4 * joints * (frame + 1)),
    ...mapTracks(motion, {
      values: (v, size) => v.slice(size * frame, size * (frame + 1)),
      labels: (v) => v.slice(frame, frame + 1),
    }),
  };
}

const thread = {
  /** Makes ready what a graph shows. @param onShare how much is ready, 0 to 1 */
  async open(
    graph: PlayGraph,
    sources: readonly PlaySource[],
    targetJson: PartyJson,
    onShare: (share: number) => void,
  ): Promise<void> {
    player = undefined;
    const target = partyFromJson(targetJson);
    const own = new Map<string, Motion>();
    for (const [i, { itemId, motionHash, source }] of sources.entries()) {
      const key = `${motionHash} ${JSON.stringify([source, source && targetJson])}`;
      const under =
        motions.get(key) ?? load(motionHash).then((m) => (source ? putOn(partyFromJson(source), m, target) : m));
      motions.set(key, under);
      under.catch(() => motions.delete(key));
      own.set(itemId, await under);
      onShare((0.5 * (i + 1)) / sources.length);
    }
    const made = new Player(target, graph, (id) => {
      const motion = own.get(id);
      if (!motion) throw new Error('An item that is shown is gone. Choose another one for its state.');
      return motion;
    });
    let told = 0;
    for (const share of made.prepare()) {
      if (share - told < 0.02) continue;
      told = share;
      onShare(0.5 + 0.5 * share);
    }
    player = made;
    rig = target.rig;
  },

  /** Goes on by some frames; presses count for the first. */
  step(frames: number, { held, pressed, numbers }: Pressed): PlayShown | null {
    if (!player || !rig) return null;
    const inputs = { held: new Set(held), numbers: new Map(numbers) };
    let at = player.step({ ...inputs, pressed: new Set(pressed) });
    for (let i = 1; i < frames; i++) at = player.step({ ...inputs, pressed: new Set() });
    const pose = frameOf(at.motion, at.frame, rig.names.length);
    return transfer({ pose, state: at.state, way: at.way, share: at.share }, [pose.turns.buffer as ArrayBuffer]);
  },
};

export type PlayThread = typeof thread;
expose(thread);
