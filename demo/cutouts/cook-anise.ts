import { EYES, eye, gradient, HANDS, hand, layer, limb, line, MOUTHS, oval, type P, page, path } from './draw';

const SKIN = 'url(#skin)';
const SKIN_FAR = '#b98466';
const DRESS = 'url(#dress)';
const SLEEVE = '#8f5a74';
const STOCKING = '#6c7f72';
const CLOG = '#7a4a2e';

const choices = (labels: readonly string[], draw: (label: string) => string): string =>
  labels.map((label, i) => layer(label, draw(label), i > 0)).join('');

const lips: Record<string, (c: P) => string> = {
  rest: ([x, y]) =>
    line(
      [
        [x - 4, y],
        [x + 14, y - 2],
      ],
      5,
    ),
  a: ([x, y]) => oval([x + 8, y + 4], 12, 15, '#7c2f3c', 4),
  e: ([x, y]) => path(`M${x - 8} ${y - 4}h28q-2 14-14 14t-14-14Z`, '#7c2f3c'),
  o: ([x, y]) => oval([x + 10, y + 2], 8, 10, '#7c2f3c', 4),
  m: ([x, y]) =>
    line(
      [
        [x - 2, y + 1],
        [x + 10, y + 3],
        [x + 18, y],
      ],
      6,
    ),
};

/** The ferry's cook: short in the leg, broad, in profile, as somebody else would draw and name her. */
export function cookAnise(): string {
  const head: P = [312, 224];
  const arm = (near: boolean) => {
    const side = near ? 'near' : 'far';
    const dx = near ? 0 : 10;
    const [shoulder, elbow, wrist]: [P, P, P] = [
      [292 + dx, 356],
      [276 + dx, 458],
      [312 + dx, 548],
    ];
    const skin = near ? SKIN : SKIN_FAR;
    return [
      layer(`arm_upper_${side}`, limb(shoulder, elbow, 36, 30, near ? SLEEVE : '#714459')),
      layer(
        `arm_lower_${side}`,
        `${limb(elbow, wrist, 29, 22, skin)}${limb(elbow, [elbow[0] + 10, elbow[1] + 26], 33, 31, near ? SLEEVE : '#714459')}`,
      ),
      layer(
        `hand_${side}`,
        choices(HANDS, (h) => hand(h, wrist, 64, skin, 1)),
      ),
    ];
  };
  const leg = (near: boolean) => {
    const side = near ? 'near' : 'far';
    const dx = near ? -10 : 14;
    const [hip, knee, ankle]: [P, P, P] = [
      [290 + dx, 628],
      [294 + dx, 716],
      [286 + dx, 806],
    ];
    const cloth = near ? STOCKING : '#56665b';
    return [
      layer(`leg_upper_${side}`, limb(hip, knee, 44, 32, cloth)),
      layer(`leg_lower_${side}`, limb(knee, ankle, 32, 22, cloth)),
      layer(
        `shoe_${side}`,
        path(
          `M${ankle[0] - 30} ${ankle[1] - 14}Q${ankle[0] - 42} ${ankle[1] + 42} ${ankle[0] - 30} ${ankle[1] + 50}H${ankle[0] + 84}Q${ankle[0] + 88} ${ankle[1] + 24} ${ankle[0] + 52} ${ankle[1] + 12}Q${ankle[0] + 34} ${ankle[1] + 2} ${ankle[0] + 26} ${ankle[1] - 16}Z`,
          near ? CLOG : '#5d3823',
        ),
      ),
    ];
  };
  const face = (view: 'front' | 'quarter' | 'side', hidden: boolean): string => {
    const turn = { front: 0, quarter: 0.5, side: 1 }[view];
    const [x, y] = head;
    const nose = path(
      `M${x + 70 * turn - 6} ${y - 8}Q${x + 104 * turn + 6} ${y + 16} ${x + 62 * turn + 6} ${y + 24}Q${x + 60 * turn - 8} ${y + 20} ${x + 70 * turn - 6} ${y - 8}Z`,
      SKIN,
    );
    const skull = oval([x, y], 80, 88, SKIN);
    return [
      layer(`head_${view}`, skull, hidden),
      ...(turn < 1
        ? [
            layer(
              `eye_far_${view}`,
              choices(EYES, (e) => eye(e, [x + 36 + 36 * turn, y - 14], 15, '#d9a283', 0.3 * turn)),
              hidden,
            ),
          ]
        : []),
      layer(
        `eye_near_${view}`,
        choices(EYES, (e) => eye(e, [x - 30 + 64 * turn, y - 14], 16, '#d9a283', 0.3 * turn)),
        hidden,
      ),
      layer(`nose_${view}`, nose, hidden),
      layer(
        `mouth_${view}`,
        choices(MOUTHS, (m) => (lips[m] ?? lips.rest!)([x + 46 * turn - 4, y + 44])),
        hidden,
      ),
    ].join('\n');
  };
  const [x, y] = head;
  return page({
    width: 620,
    height: 900,
    defs: `${gradient('skin', '#e9b694', '#d09673')}${gradient('dress', '#a3657f', '#6d3f58')}${gradient('linen', '#fbf6e8', '#ddd2b8')}`,
    layers: [
      ...arm(false),
      ...leg(false),
      layer(
        'hair_back',
        path(
          `M${x - 84} ${y - 40}Q${x - 130} ${y + 50} ${x - 92} ${y + 104}Q${x - 40} ${y + 120} ${x + 4} ${y + 76}L${x - 10} ${y - 60}Z`,
          '#4a2c22',
        ),
      ),
      ...leg(true),
      layer('hips', path('M212 566Q196 640 236 672Q300 694 356 668Q392 640 372 566Z', DRESS)),
      layer('torso', path('M246 322Q204 420 214 590Q300 620 378 590Q396 430 348 322Q300 292 246 322Z', DRESS)),
      layer(
        'apron',
        `${path('M330 372Q390 450 384 640Q366 690 300 694Q288 560 306 400Z', 'url(#linen)')}${line(
          [
            [306, 470],
            [214, 480],
          ],
          8,
          '#efe6cf',
        )}`,
      ),
      layer('neck', limb([296, 330], [304, 286], 34, 32, SKIN)),
      face('side', false),
      face('front', true),
      face('quarter', true),
      layer(
        'cap',
        `${path(`M${x - 82} ${y - 30}Q${x - 120} ${y - 120} ${x - 20} ${y - 124}Q${x + 96} ${y - 132} ${x + 74} ${y - 44}Q${x} ${y - 70} ${x - 82} ${y - 30}Z`, 'url(#linen)')}`,
      ),
      ...arm(true),
      layer(
        'ladle',
        `${line(
          [
            [318, 590],
            [334, 690],
          ],
          9,
          '#8d8f94',
        )}${oval([336, 704], 24, 18, '#a7a9ae')}`,
      ),
    ],
  });
}
