import { EYES, eye, gradient, HANDS, hand, INK, layer, limb, line, MOUTHS, oval, type P, page, path } from './draw';

const NAVY = 'url(#navy)';
const SLEEVE = '#31486b';
const SHADE = '#263a58';
const TROUSER = '#efe2c4';
const FEATHER = '#f3ead6';
const BEAK = '#e0a63a';
const BOOT = '#3a2a24';

/** Drawings of a part, the first of them shown. */
const choices = (labels: readonly string[], draw: (label: string) => string): string =>
  labels.map((label, i) => layer(label, draw(label), i > 0)).join('');

/** A beak seen from the front (turn 0), from halfway, or from the side (turn 1). */
function beak(state: string, root: P, turn: number): string {
  const [x, y] = root;
  const gape = { rest: 0, a: 30, e: 16, o: 22, m: 4 }[state] ?? 0;
  const narrow = state === 'o' ? 0.72 : 1;
  const wide = 40 * narrow;
  const tip: P = [x + turn * 92 * narrow, y + 50 - 28 * turn];
  const left: P = [x - wide * (1 - 0.7 * turn), y - 4];
  const right: P = [x + wide * (1 - 0.5 * turn), y - 4];
  const low: P = [tip[0] - 16 * turn, tip[1] + gape + 8];
  const half = 0.5 * (tip[0] - x);
  const lower = path(
    `M${left[0] + 6} ${left[1] + 6}Q${x + half - 14 * (1 - turn)} ${low[1]} ${low[0]} ${low[1]}Q${x + half + 20} ${low[1] - 6} ${right[0] - 4} ${right[1] + 6}Z`,
    '#c98b2b',
  );
  const inside =
    gape > 4
      ? path(
          `M${left[0] + 8} ${left[1] + 8}L${tip[0]} ${tip[1] + gape * 0.7}L${right[0] - 8} ${right[1] + 8}Z`,
          '#7c2f3c',
          INK,
          2,
        )
      : '';
  const upper = path(
    `M${left[0]} ${left[1]}Q${x + turn * 24} ${y - 34} ${right[0]} ${right[1]}Q${tip[0] + 14 * (1 - turn) + 4} ${(y + tip[1]) / 2 - 4} ${tip[0]} ${tip[1]}Q${x - 16 * (1 - turn) + 0.35 * (tip[0] - x)} ${(y + tip[1]) / 2 + 8} ${left[0]} ${left[1]}Z`,
    BEAK,
  );
  const nostrils = [-9, ...(turn < 0.9 ? [9] : [])]
    .map((dx) => oval([x + turn * 30 + dx * (1 - turn), y - 8], 3, 2, INK, 0))
    .join('');
  return lower + inside + upper + nostrils;
}

function capOf(c: P, turn: number): string {
  const [x, y] = c;
  return `${path(`M${x - 88} ${y - 28}Q${x - 96} ${y - 96} ${x} ${y - 104}Q${x + 96} ${y - 96} ${x + 88} ${y - 28}Q${x} ${y - 56} ${x - 88} ${y - 28}Z`, NAVY)}${path(`M${x - 86 + 30 * turn} ${y - 34}Q${x + 46 * turn} ${y - 66} ${x + 86 + 30 * turn} ${y - 34}Q${x + 60 * turn} ${y - 30} ${x - 86 + 30 * turn} ${y - 34}Z`, '#1d2c44')}${oval([x + 40 * turn, y - 76], 13, 13, '#e2b75c', 3)}`;
}

/** The captain of the ferry, a gull of long legs and few words, drawn from the front with three views of the head. */
export function gullCaptain(): string {
  const head: P = [300, 190];
  const arm = (s: 1 | -1) => {
    const x = (v: number): number => 300 + s * v;
    const side = s > 0 ? 'L' : 'R';
    const shoulder: P = [x(70), 324];
    const elbow: P = [x(118), 442];
    const wrist: P = [x(140), 556];
    return {
      upper: layer(`upper arm ${side}`, limb(shoulder, elbow, 32, 25, SLEEVE, SHADE)),
      fore: layer(
        `forearm ${side}`,
        `${limb(elbow, wrist, 25, 21, SLEEVE, SHADE)}${line(
          [
            [wrist[0] - 17, wrist[1] - 16],
            [wrist[0] + 17, wrist[1] - 20],
          ],
          5,
          '#e2b75c',
        )}`,
      ),
      hand: layer(
        `hand ${side}`,
        choices(HANDS, (h) => hand(h, wrist, 62, FEATHER, s)),
      ),
      wrist,
    };
  };
  const leg = (s: 1 | -1) => {
    const x = (v: number): number => 300 + s * v;
    const side = s > 0 ? 'L' : 'R';
    const [hip, knee, ankle]: [P, P, P] = [
      [x(36), 590],
      [x(42), 708],
      [x(44), 826],
    ];
    return [
      layer(`thigh ${side}`, limb(hip, knee, 30, 23, TROUSER, '#d8c9a6')),
      layer(`shin ${side}`, limb(knee, ankle, 23, 17, TROUSER, '#d8c9a6')),
      layer(
        `foot ${side}`,
        path(
          `M${x(24)} ${812}Q${x(20)} ${872} ${x(30)} ${874}L${x(104)} ${874}Q${x(110)} ${852} ${x(80)} ${842}Q${x(66)} ${834} ${x(64)} ${810}Q${x(44)} ${800} ${x(24)} ${812}Z`,
          BOOT,
        ),
      ),
    ];
  };
  const [left, right] = [arm(1), arm(-1)];
  const view = (name: string, turn: number, hidden: boolean): string => {
    const shift = 34 * turn;
    const eyes =
      turn < 0.9
        ? [
            layer(
              'eye L',
              choices(EYES, (e) => eye(e, [head[0] + 32 + shift, head[1] - 6], 19 - 5 * turn, '#e4d6b8', 0.35 * turn)),
            ),
            layer(
              'eye R',
              choices(EYES, (e) => eye(e, [head[0] - 32 + shift, head[1] - 6], 19 + 2 * turn, '#e4d6b8', 0.35 * turn)),
            ),
          ]
        : [
            layer(
              'eye R',
              choices(EYES, (e) => eye(e, [head[0] + 26, head[1] - 6], 20, '#e4d6b8', 0.35)),
            ),
          ];
    return layer(
      name,
      [
        layer(
          'face',
          `${oval(head, 84 - 4 * turn, 92, 'url(#feather)')}${path(`M${head[0] - 52} ${head[1] + 66}Q${head[0]} ${head[1] + 98} ${head[0] + 52} ${head[1] + 66}Q${head[0]} ${head[1] + 112} ${head[0] - 52} ${head[1] + 66}Z`, '#dcd0b4', 'none', 0)}`,
        ),
        ...eyes,
        layer(
          'mouth',
          choices(MOUTHS, (m) => beak(m, [head[0] + 52 * turn, head[1] + 26], turn)),
        ),
        layer('cap', capOf(head, turn)),
      ].join(''),
      hidden,
    );
  };
  return page({
    width: 600,
    height: 920,
    defs: `${gradient('navy', '#3a5580', '#22344f')}${gradient('feather', '#fbf4e3', '#e6d9bd')}${gradient('lamp', '#ffe7a3', '#e3a33c')}`,
    layers: [
      layer(
        'hair back',
        [-46, -16, 14, 44]
          .map((dx, i) => {
            const long = 132 - 16 * Math.abs(i - 1.5);
            const [x, y] = [head[0] + 0.7 * dx, head[1] + 40];
            const tip = head[0] + 2 * dx;
            return path(
              `M${x - 22} ${y}Q${tip - 16} ${head[1] + long - 12} ${tip} ${head[1] + long}Q${tip + 12} ${head[1] + 96} ${x + 22} ${y}Z`,
              i % 2 ? '#d8cdb2' : '#c9bc9c',
            );
          })
          .join(''),
      ),
      // the right arm lies behind the coat, the left before it
      right.upper,
      right.fore,
      layer(
        'lantern',
        `${line(
          [
            [right.wrist[0], right.wrist[1] + 34],
            [right.wrist[0], right.wrist[1] + 70],
          ],
          5,
        )}${path(`M${right.wrist[0] - 24} ${right.wrist[1] + 70}h48l8 14h-64Z`, '#6b5234')}${path(`M${right.wrist[0] - 26} ${right.wrist[1] + 84}h52l-4 60h-44Z`, 'url(#lamp)')}${path(`M${right.wrist[0] - 28} ${right.wrist[1] + 142}h56v14h-56Z`, '#6b5234')}`,
      ),
      right.hand,
      ...leg(-1),
      ...leg(1),
      layer('pelvis', path('M232 536Q228 604 248 622Q300 640 352 622Q372 604 368 536Z', TROUSER)),
      layer('coat tail', path('M226 520Q206 612 236 668Q300 690 364 668Q394 612 374 520Z', NAVY)),
      layer(
        'chest',
        `${path('M236 300Q222 420 224 556Q300 578 376 556Q378 420 364 300Q330 276 300 276Q270 276 236 300Z', NAVY)}${line(
          [
            [300, 330],
            [300, 556],
          ],
          4,
        )}${[352, 404, 456, 508].map((y) => oval([322, y], 8, 8, '#e2b75c', 3)).join('')}`,
      ),
      layer('neck', limb([300, 306], [300, 250], 34, 30, FEATHER)),
      layer('head', [view('front', 0, false), view('quarter', 0.5, true), view('side', 1, true)].join('')),
      layer('scarf', `${path('M246 290Q300 330 354 290Q362 316 352 326Q300 356 248 326Q238 316 246 290Z', '#b4543c')}`),
      left.upper,
      left.fore,
      left.hand,
    ],
  });
}
