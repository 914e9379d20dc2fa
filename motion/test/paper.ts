import { seeded } from '../math/random';

// Paper figures that nobody drew: layered SVG with known parts, called and nested in many ways.

/** How parts are called; sides go behind a space or in front, as the language has it. */
export interface Vocabulary {
  readonly left: string;
  readonly right: string;
  readonly words: Readonly<Record<string, string>>;
}

const vocabulary = (left: string, right: string, text: string): Vocabulary => {
  const keys = ['head', 'neck', 'torso', 'upperArm', 'forearm', 'hand', 'thigh', 'shin', 'foot', 'hat', 'eye', 'mouth'];
  const words = text.split('|');
  return { left, right, words: Object.fromEntries(keys.map((k, i) => [k, words[i]!])) };
};

export const LANGUAGES: Readonly<Record<string, Vocabulary>> = {
  plain: vocabulary('L', 'R', 'head|neck|torso|upper arm|forearm|hand|thigh|shin|foot|hat|eye|mouth'),
  english: vocabulary('left', 'right', 'Face|Neck|Body|Arm_Upper|Arm_Lower|Palm|Leg_Upper|Leg_Lower|Shoe|Cap|Eye|Lips'),
  german: vocabulary(
    'links',
    'rechts',
    'Kopf|Hals|Rumpf|Oberarm|Unterarm|Hand|Oberschenkel|Unterschenkel|Fuß|Hut|Auge|Mund',
  ),
  french: vocabulary(
    'gauche',
    'droit',
    'Tête|Cou|Tronc|Bras haut|Avant-bras|Main|Cuisse|Mollet|Pied|Chapeau|Œil|Bouche',
  ),
  spanish: vocabulary(
    'izq',
    'der',
    'Cabeza|Cuello|Tronco|Brazo superior|Antebrazo|Mano|Muslo|Pantorrilla|Pie|Sombrero|Ojo|Boca',
  ),
  italian: vocabulary(
    'sx',
    'dx',
    'Testa|Collo|Busto|Braccio superiore|Avambraccio|Mano|Coscia|Polpaccio|Piede|Cappello|Occhio|Bocca',
  ),
  portuguese: vocabulary(
    'esq',
    'dir',
    'Cabeça|Pescoço|Tronco|Braço superior|Antebraço|Mão|Coxa|Canela|Pé|Chapéu|Olho|Boca',
  ),
  dutch: vocabulary(
    'linker',
    'rechter',
    'Hoofd|Nek|Romp|Bovenarm|Onderarm|Hand|Bovenbeen|Onderbeen|Voet|Hoed|Oog|Mond',
  ),
  polish: vocabulary(
    'lewa',
    'prawa',
    'Głowa|Szyja|Tułów|Ramię górne|Przedramię|Dłoń|Udo|Łydka|Stopa|Kapelusz|Oko|Usta',
  ),
  swedish: vocabulary('vänster', 'höger', 'Huvud|Hals|Bål|Överarm|Underarm|Hand|Lår|Underben|Fot|Hatt|Öga|Mun'),
  russian: vocabulary(
    'левая',
    'правая',
    'Голова|Шея|Туловище|Плечо|Предплечье|Кисть|Бедро|Голень|Стопа|Шляпа|Глаз|Рот',
  ),
  japanese: vocabulary('左', '右', '頭|首|胴|上腕|前腕|手|太腿|すね|足|帽子|目|口'),
  none: vocabulary('', '', '|||||||||||'),
};

export interface PaperTraits {
  readonly language: keyof typeof LANGUAGES;
  readonly facing: 'front' | 'right' | 'left';
  /** Groups within groups, and transforms on every level. */
  readonly nested: boolean;
  /** Sides in a profile are told as near and far. */
  readonly depth: boolean;
  readonly hat: boolean;
  readonly broad: number;
  readonly armDegrees: number;
  readonly scale: number;
  /** In profile: how far arms and legs swing apart. */
  readonly strideDegrees: number;
}

export interface PaperFigure {
  readonly svg: string;
  readonly traits: PaperTraits;
  /** By slot: where the pivot of its part lies in the picture. */
  readonly pivots: Readonly<Record<string, readonly [number, number]>>;
}

/** Traits of a figure made at random. */
export function paperTraits(seed: number, asked: Partial<PaperTraits> = {}): PaperTraits {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  return {
    language: pick(Object.keys(LANGUAGES)),
    facing: pick(['front', 'front', 'right', 'left']),
    nested: random() < 0.5,
    depth: random() < 0.5,
    hat: random() < 0.5,
    broad: 0.75 + 0.7 * random(),
    armDegrees: 12 + 35 * random(),
    scale: 0.2 + 4 * random(),
    strideDegrees: random() < 0.5 ? 0 : 25 * random(),
    ...asked,
  };
}

type P = readonly [number, number];

/** A figure with known parts and pivots. */
export function paperFigure(traits: PaperTraits): PaperFigure {
  const { language, facing, nested, depth, hat, broad, armDegrees, scale, strideDegrees } = traits;
  const { left, right, words } = LANGUAGES[language]!;
  const profile = facing !== 'front';
  const ahead = facing === 'left' ? -1 : 1;
  const n = (x: number): string => String(Math.round(x * scale * 100) / 100);
  const capsule = ([ax, ay]: P, [bx, by]: P, ra: number, rb: number): string => {
    const long = Math.hypot(bx - ax, by - ay);
    const [ux, uy] = [(bx - ax) / long, (by - ay) / long];
    const at = (x: number, y: number, r: number, side: number): string =>
      `${n(x - side * uy * r)} ${n(y + side * ux * r)}`;
    return `<path d="M${at(ax, ay, ra, 1)}L${at(bx, by, rb, 1)}A${n(rb)} ${n(rb)} 0 0 0 ${at(bx, by, rb, -1)}L${at(ax, ay, ra, -1)}A${n(ra)} ${n(ra)} 0 0 0 ${at(ax, ay, ra, 1)}Z" fill="#c96"/>`;
  };
  let unnamed = 0;
  const name = (kind: string, side?: 'L' | 'R'): string => {
    const word = words[kind] ?? '';
    if (language === 'none') return `path${100 + unnamed++}`;
    if (!side) return word;
    if (profile && depth) return `${word} ${(side === 'R') === (facing === 'right') ? 'near' : 'far'}`;
    const mark = side === 'L' ? left : right;
    return language === 'japanese' ? mark + word : language === 'dutch' ? `${mark} ${word}` : `${word} ${mark}`;
  };
  const group = (label: string, inside: string): string =>
    nested
      ? `<g id="${label}" transform="translate(${n(7)} ${n(-3)})"><g transform="translate(${n(-7)} ${n(3)})">${inside}</g></g>`
      : `<g id="${label}">${inside}</g>`;
  const pivots: Record<string, P> = {};
  const arm = (side: 'L' | 'R'): string[] => {
    const s = profile ? (side === 'R' ? 1 : -1) * 0.06 * ahead : side === 'L' ? 1 : -1;
    const angle = profile
      ? ((side === 'R' ? 6 : -4) + (side === 'R' ? -1 : 1) * strideDegrees) * ahead
      : s * armDegrees;
    const [dx, dy] = [Math.sin((angle * Math.PI) / 180), Math.cos((angle * Math.PI) / 180)];
    const shoulder: P = [200 + s * 58 * broad, 232];
    const elbow: P = [shoulder[0] + 92 * dx, shoulder[1] + 92 * dy];
    const bend = profile ? 0.2 * ahead : 0.05 * s;
    const wrist: P = [elbow[0] + 82 * (dx + bend), elbow[1] + 82 * dy];
    pivots[`upperArm${side}`] = shoulder;
    pivots[`forearm${side}`] = elbow;
    pivots[`hand${side}`] = wrist;
    return [
      group(name('upperArm', side), capsule(shoulder, elbow, 19 * broad, 16 * broad)),
      group(name('forearm', side), capsule(elbow, wrist, 16 * broad, 13 * broad)),
      group(
        name('hand', side),
        `<ellipse cx="${n(wrist[0] + 6 * dx)}" cy="${n(wrist[1] + 15)}" rx="${n(15)}" ry="${n(21)}" fill="#eb9"/>`,
      ),
    ];
  };
  const leg = (side: 'L' | 'R'): string[] => {
    const s = profile ? (side === 'R' ? 1 : -1) * 0.12 * ahead : side === 'L' ? 1 : -1;
    const hip: P = [200 + s * 30 * broad, 420];
    // a stride swings the whole leg about its hip
    const swing = profile ? ((side === 'R' ? 1 : -1) * ahead * strideDegrees * Math.PI) / 180 : 0;
    const [sin, cos] = [Math.sin(swing), Math.cos(swing)];
    const swung = (x: number, y: number): P => [hip[0] + x * cos + y * sin, hip[1] - x * sin + y * cos];
    const knee = swung(profile ? 6 * ahead : 2 * s, 108);
    const ankle = swung(0, 216);
    const toe = profile ? ahead : s;
    pivots[`thigh${side}`] = hip;
    pivots[`shin${side}`] = knee;
    pivots[`foot${side}`] = ankle;
    return [
      group(name('thigh', side), capsule(hip, knee, 25 * broad, 19 * broad)),
      group(name('shin', side), capsule(knee, ankle, 19 * broad, 13 * broad)),
      group(
        name('foot', side),
        `<path d="M${n(ankle[0] - 15 * toe)} ${n(ankle[1] - 12)}L${n(ankle[0] - 17 * toe)} ${n(ankle[1] + 32)}L${n(ankle[0] + 48 * toe)} ${n(ankle[1] + 32)}L${n(ankle[0] + 14 * toe)} ${n(ankle[1] - 10)}Z" fill="#532"/>`,
      ),
    ];
  };
  const turn = profile ? ahead : 0;
  const face = [
    group(name('head'), `<ellipse cx="${n(200)}" cy="${n(120)}" rx="${n(54)}" ry="${n(62)}" fill="#eb9"/>`),
    group(
      name('eye'),
      profile
        ? `<circle cx="${n(200 + 26 * turn)}" cy="${n(112)}" r="${n(7)}" fill="#fff"/>`
        : `<circle cx="${n(180)}" cy="${n(112)}" r="${n(7)}" fill="#fff"/><circle cx="${n(220)}" cy="${n(112)}" r="${n(7)}" fill="#fff"/>`,
    ),
    group(name('mouth'), `<ellipse cx="${n(200 + 24 * turn)}" cy="${n(152)}" rx="${n(13)}" ry="${n(5)}" fill="#933"/>`),
    ...(hat
      ? [
          group(
            name('hat'),
            `<path d="M${n(140)} ${n(82)}L${n(260)} ${n(82)}L${n(236)} ${n(30)}L${n(164)} ${n(30)}Z" fill="#345"/>`,
          ),
        ]
      : []),
  ];
  pivots.head = [200, 180];
  const torso = group(
    name('torso'),
    `<path d="M${n(200 - 62 * broad)} ${n(222)}Q${n(200)} ${n(196)} ${n(200 + 62 * broad)} ${n(222)}L${n(200 + 56 * broad)} ${n(440)}Q${n(200)} ${n(456)} ${n(200 - 56 * broad)} ${n(440)}Z" fill="#557"/>`,
  );
  pivots.hips = [200, 420];
  const neck = group(name('neck'), capsule([200, 216], [200, 182], 16, 15));
  const far = profile ? (facing === 'right' ? 'L' : 'R') : 'R';
  const near = far === 'L' ? 'R' : 'L';
  const all = [
    ...arm(far),
    ...leg(far),
    ...(profile ? [] : leg(near)),
    ...(profile ? leg(near) : []),
    torso,
    neck,
    ...face,
    ...arm(near),
  ];
  const body = nested ? `<g id="${language === 'none' ? 'layer1' : 'Figure'}">${all.join('')}</g>` : all.join('');
  return {
    svg: `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${n(400)} ${n(700)}">${body}</svg>`,
    traits,
    pivots: Object.fromEntries(Object.entries(pivots).map(([slot, [x, y]]) => [slot, [x * scale, y * scale] as const])),
  };
}
