import {
  type CutoutKey,
  type CutoutKeys,
  cutoutFromSvg,
  type Ease,
  evaluateKeys,
  sceneToJson,
} from '../../motion/index';
import { gullCaptain } from './gull-captain';

const FPS = 24;
const FRAMES = 97;
const SNAP: Ease = [0.5, 0, 0.9, 0.6];
const FLOAT: Ease = [0.15, 0.6, 0.5, 1];

type Turns = readonly (readonly [frame: number, degrees: number, ease?: Ease])[];
const turns = (joint: string, list: Turns): CutoutKeys['tracks'][number] => ({
  joint,
  channel: 'turn',
  keys: list.map(([frame, degrees, ease]) => ({ frame, value: [(degrees * Math.PI) / 180], ease: ease ?? 'smooth' })),
});

/**
 * The captain crouches, throws his lantern up, hops after it and catches it: keys as an animator sets them. His right forearm
 * was drawn with its pivot beside the joint, and keys of place close that gap; the lantern leaves his hand, and his head its neck, on purpose.
 */
export function lanternToss(): string {
  const figure = cutoutFromSvg(new TextEncoder().encode(gullCaptain()));
  const { rig } = figure;
  const rest = (joint: string): [number, number] => {
    const j = rig.names.indexOf(joint);
    return [rig.restT[3 * j]!, rig.restT[3 * j + 1]!];
  };
  const forearm: Turns = [
    [0, -6],
    [14, -34],
    [22, -62, SNAP],
    [27, -4],
    [46, -40],
    [58, -8, FLOAT],
    [68, -46],
    [96, -6],
  ];
  // the pivot lies beside the joint by this much, metres
  const [ex, ey] = [0.014, 0.008];
  const closed = forearm
    .filter(([frame]) => frame > 0 && frame < 96)
    .map(([frame, degrees]): CutoutKey => {
      const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
      const [x, y] = rest('forearm R');
      return { frame, value: [x + ex - (c * ex - s * ey), y + ey - (s * ex + c * ey)] };
    });
  const [lx, ly] = rest('lantern');
  const [hx, hy] = rest('hips');
  const thrown: CutoutKey[] = [
    { frame: 0, value: [lx, ly] },
    { frame: 27, value: [lx, ly], ease: FLOAT },
    { frame: 42, value: [lx - 0.06, ly - 0.62], ease: [0.5, 0, 0.85, 0.5] },
    { frame: 56, value: [lx - 0.02, ly - 0.1], ease: 'linear' },
    { frame: 58, value: [lx, ly] },
  ];
  // surprise lifts his head off its neck
  const [nx, ny] = rest('head');
  const startled: CutoutKey[] = [
    { frame: 0, value: [nx, ny] },
    { frame: 27, value: [nx, ny] },
    { frame: 31, value: [nx - 0.01, ny + 0.1] },
    { frame: 36, value: [nx - 0.005, ny + 0.07] },
    { frame: 42, value: [nx, ny] },
  ];
  const bend = (side: 'L' | 'R'): CutoutKeys['tracks'] => {
    const out = side === 'L' ? 1 : -1;
    const knee: Turns = [
      [0, 0],
      [20, 24 * out],
      [28, 2 * out],
      [42, 28 * out, SNAP],
      [48, 0],
      [55, 14 * out],
      [63, 4 * out],
      [69, 30 * out],
      [82, 0],
    ];
    return [
      turns(`thigh ${side}`, knee),
      turns(
        `shin ${side}`,
        knee.map(([f, d, e]) => [f, -2 * d, e ?? 'smooth'] as const),
      ),
      turns(`foot ${side}`, knee),
    ];
  };
  /** As high as legs bent by this much carry the hips. */
  const down = (degrees: number): number => hy - 0.5 * (1 - Math.cos((degrees * Math.PI) / 180));
  const hips: CutoutKey[] = [
    { frame: 0, value: [hx, hy] },
    { frame: 20, value: [hx, down(24)] },
    { frame: 28, value: [hx, down(2)] },
    { frame: 42, value: [hx, down(28)], ease: SNAP },
    { frame: 48, value: [hx, hy], ease: FLOAT },
    { frame: 55, value: [hx - 0.03, hy + 0.17], ease: [0.5, 0, 0.85, 0.5] },
    { frame: 63, value: [hx - 0.06, down(4)] },
    { frame: 69, value: [hx - 0.06, down(30)] },
    { frame: 82, value: [hx - 0.06, hy] },
  ];
  const keys: CutoutKeys = {
    fps: FPS,
    frameCount: FRAMES,
    tracks: [
      { joint: 'hips', channel: 'place', keys: hips },
      { joint: 'forearm R', channel: 'place', keys: closed },
      { joint: 'lantern', channel: 'place', keys: thrown },
      { joint: 'head', channel: 'place', keys: startled },
      // it hangs, whatever the arm does
      turns('lantern', [
        [0, 0],
        [20, 34],
        [27, 84],
        [42, 150],
        [57, 138],
        [69, 58],
        [84, 10],
        [96, 0],
      ]),
      turns('chest', [
        [0, 0],
        [20, 5],
        [27, -4],
        [46, 3],
        [56, -5],
        [69, 4],
        [84, 0],
      ]),
      turns('head', [
        [0, 0],
        [18, 8],
        [28, -10],
        [54, -6],
        [69, 8],
        [84, 0],
      ]),
      turns('upper arm R', [
        [0, 0],
        [20, 16, SNAP],
        [27, -96],
        [46, -70],
        [57, -112],
        [69, -30],
        [84, 0],
      ]),
      turns('forearm R', forearm),
      turns('hand R', [
        [0, 0],
        [27, -24],
        [57, -18],
        [69, 10],
        [84, 0],
      ]),
      turns('upper arm L', [
        [0, 0],
        [20, -10],
        [28, 30],
        [42, -8],
        [55, 64],
        [69, 10],
        [84, 0],
      ]),
      turns('forearm L', [
        [0, 0],
        [28, 22],
        [55, 34],
        [69, 30],
        [84, 0],
      ]),
      turns('coat tail', [
        [0, 0],
        [28, 6],
        [50, -10],
        [58, 14],
        [70, -6],
        [84, 0],
      ]),
      ...bend('L'),
      ...bend('R'),
    ],
    steps: [
      {
        name: 'hand R',
        keys: [
          { frame: 0, label: 'grip' },
          { frame: 27, label: 'open' },
          { frame: 57, label: 'grip' },
        ],
      },
      {
        name: 'mouth',
        keys: [
          { frame: 0, label: 'rest' },
          { frame: 26, label: 'o' },
          { frame: 57, label: 'a' },
          { frame: 78, label: 'rest' },
        ],
      },
      ...['eye L', 'eye R'].map((name) => ({
        name,
        keys: [
          { frame: 0, label: 'open' },
          { frame: 27, label: 'wide' },
          { frame: 66, label: 'shut' },
          { frame: 70, label: 'open' },
          { frame: 86, label: 'shut' },
          { frame: 88, label: 'open' },
        ],
      })),
    ],
    plants: [
      { side: 'L', start: 0, end: 48 },
      { side: 'R', start: 0, end: 48 },
      { side: 'R', start: 63, end: 96 },
      { side: 'L', start: 63, end: 96 },
    ],
  };
  return JSON.stringify(sceneToJson(figure, evaluateKeys(rig, keys), { name: 'Lantern toss', keys }));
}
