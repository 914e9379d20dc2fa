import { tokensOf } from '../bodymap/names';
import type { Side } from '../bodymap/slots';

/** What a piece of a figure can be. 'arm' and 'leg' are whole limbs, 'torso' a trunk of one piece. */
export type PartKind =
  | 'head'
  | 'neck'
  | 'chest'
  | 'torso'
  | 'pelvis'
  | 'arm'
  | 'upperArm'
  | 'forearm'
  | 'hand'
  | 'leg'
  | 'thigh'
  | 'shin'
  | 'foot'
  | 'eye'
  | 'pupil'
  | 'brow'
  | 'mouth'
  | 'nose'
  | 'ear'
  | 'hair'
  | 'beard'
  | 'hat'
  | 'tail'
  | 'wing'
  | 'skirt'
  | 'coat'
  | 'prop'
  | 'backdrop';

/** From where a drawing shows its part. */
export type PartView = 'front' | 'quarter' | 'side' | 'back';

export interface PartReading {
  readonly kind: PartKind | undefined;
  readonly side: Side | undefined;
  /** Nearer to the eye than its partner, or farther from it. */
  readonly depth: 'near' | 'far' | undefined;
  readonly view: PartView | undefined;
  /** What is left of the name: the label of a drawing, as a rule. */
  readonly label: string;
}

// Words in ten languages, without accents, as they begin. The longest that fits wins.
const KINDS: Record<PartKind, string> = {
  head: 'head face skull kopf gesicht tete visage cabeza cara testa viso cabeca rosto hoofd gezicht glowa twarz huvud ansikte голова лицо 頭 顔 あたま',
  neck: 'neck hals nacken cou cuello collo pescoco nek szyja шея 首',
  chest:
    'chest upperbody ribcage bust brust oberkorper poitrine buste pecho torsosuperior petto peito borst klatka brost грудь 胸',
  torso:
    'torso body trunk rumpf korper leib torse tronc corps tronco cuerpo corpo romp lichaam tulow cialo bal kropp туловище тело 胴 体 ボディ',
  pelvis:
    'pelvis hip hips waist becken hufte bassin hanche pelvi cadera bacino anca quadril heup bekken miednica biodro hoft таз 腰',
  arm: 'arm bras brazo braccio braco reka ramie рука 腕 うで',
  upperArm:
    'upperarm armupper uparm bicep humerus oberarm armober brashaut brassuperieur brazosuperior brazoalto bracciosuperiore bracosuperior bovenarm armboven ramie overarm плечо 上腕',
  forearm:
    'forearm lowerarm armlower lowarm elbow unterarm armunter avantbras brasbas brasinferieur antebrazo brazoinferior avambraccio braccioinferiore antebraco onderarm armonder przedramie underarm предплечье 前腕',
  hand: 'hand fist palm paw wrist faust main poing mano puno pugno mao punho vuist dlon кисть 手 て',
  leg: 'leg bein jambe pierna gamba perna been noga ben нога 脚 あし',
  thigh:
    'thigh upperleg legupper upleg femur oberschenkel beinober cuisse jambehaut jambesuperieure muslo piernasuperior coscia gambasuperiore coxa pernasuperior bovenbeen beenboven dij udo lar бедро 太もも 太腿',
  shin: 'shin calf lowerleg leglower lowleg tibia knee unterschenkel beinunter mollet tibia jambebas jambeinferieure pantorrilla espinilla piernainferior polpaccio stinco gambainferiore canela panturrilha pernainferior onderbeen beenonder kuit lydka golen underben vad голень すね 脛',
  foot: 'foot feet shoe boot ankle fuss schuh stiefel pied chaussure botte pie zapato bota piede scarpa stivale pe sapato voet schoen laars stopa but fot sko стопа ступня ботинок 足 靴',
  eye: 'eye auge oeil yeux ojo occhio olho oog oko oga глаз 目',
  pupil: 'pupil iris pupille pupila pupilla źrenica zrenica зрачок 瞳',
  brow: 'brow eyebrow braue augenbraue sourcil ceja sopracciglio sobrancelha wenkbrauw brew ogonbryn бровь 眉',
  mouth: 'mouth lips lip jaw mund bouche boca bocca mond usta mun рот 口',
  nose: 'nose beak snout nase schnabel nez bec nariz pico naso becco neus snavel nos dziob nasa nabb нос клюв 鼻 くちばし',
  ear: 'ear ohr oreille oreja orecchio orelha oor ucho ora ухо 耳',
  hair: 'hair bangs fringe ponytail haar haare cheveux pelo cabello capelli cabelo wlosy har волосы 髪',
  beard:
    'beard moustache mustache bart barbe moustache barba bigote baffi bigode baard broda wasy skagg борода усы ひげ',
  hat: 'hat cap helmet hut mutze chapeau casquette sombrero gorra cappello chapeu hoed muts kapelusz czapka hatt шляпа 帽子',
  tail: 'tail schwanz queue cola coda rabo cauda staart ogon svans хвост 尻尾',
  wing: 'wing flugel aile ala asa vleugel skrzydlo vinge крыло 翼',
  skirt: 'skirt dress rock kleid jupe robe falda vestido gonna saia rok spodnica kjol юбка スカート',
  coat: 'coat jacket apron cape scarf mantel jacke schurze schal manteau veste tablier abrigo chaqueta delantal bufanda cappotto giacca grembiule sciarpa casaco avental jas plaszcz fartuch пальто шарф コート',
  prop: 'prop lantern lamp bag bucket bell laterne lampe tasche eimer glocke lanterne sac seau linterna bolso cubo lanterna borsa secchio lanterna saco lantaarn tas emmer latarnia torba фонарь сумка 小道具',
  backdrop:
    'background backdrop bg hintergrund fond arriereplan fondo sfondo fundo achtergrond tlo bakgrund фон 背景 shadow schatten ombre sombra ombra schaduw cien тень 影',
};

const SIDES: Record<Side, string> = {
  L: 'l left lft links linke linker linkes linkem gauche g izquierda izquierdo izq sinistra sinistro sx esquerda esquerdo esq linker lewy lewa lewe lewo vanster лев левая левый левое 左 ひだり',
  R: 'r right rgt rechts rechte rechter rechtes rechtem droite droit d derecha derecho der destra destro dx direita direito dir prawy prawa prawe prawo hoger прав правая правый правое 右 みぎ',
};
const NEAR =
  'near nah naher vordere vorderer vorderes vorn vorne avant delante delantero davanti frente voor przod framre front 手前'.split(
    ' ',
  );
const FAR =
  'far fern hintere hinterer hinteres hinten arriere detras trasero dietro tras achter tyl bakre back rear 奥'.split(
    ' ',
  );
const VIEWS: Record<PartView, string> = {
  quarter: 'quarter threequarter threequarters 34 dreiviertel troisquarts trescuartos trequarti tresquartos driekwart',
  front: 'front frontal fronte face face frontale frontaal vorne vorn frente przod fram анфас 正面',
  side: 'side profile profil seite seitlich cote perfil lado lato profilo zij zijkant bok sida профиль 横',
  back: 'back rear hinten ruckseite dos arriere espalda detras dietro retro costas achter tyl bak 後',
};
const UPPER = new Set(
  'upper up top ober oberer obere haut superieur superieure superior sup superiore alto boven gorna gorny gorne ovre верх верхняя верхний 上'.split(
    ' ',
  ),
);
const LOWER = new Set(
  'lower low bottom unter unterer untere bas inferieur inferieure inferior inf inferiore basso onder dolna dolny dolne nedre ниж нижняя нижний 下'.split(
    ' ',
  ),
);

const words = (text: string): string[] => [...new Set(text.split(' '))];
const KIND_WORDS = (Object.entries(KINDS) as [PartKind, string][])
  .flatMap(([kind, text]) => words(text).map((word) => ({ kind, word })))
  .sort((a, b) => b.word.length - a.word.length);
const SIDE_WORDS = new Map(
  (Object.entries(SIDES) as [Side, string][]).flatMap(([s, t]) => words(t).map((w) => [w, s])),
);
const VIEW_WORDS = new Map(
  (Object.entries(VIEWS) as [PartView, string][]).flatMap(([v, t]) => words(t).map((w) => [w, v])),
);
/** Words that only say that something is drawn. */
const FILLER = new Set(
  'layer group grp g ebene gruppe calque groupe capa grupo livello gruppo camada laag warstwa path shape the of de la le el der die das und copy kopie art puppet figure figur char character part draw drawing'.split(
    ' ',
  ),
);

/** Written with one letter or a sign where the alphabet has more: "Fuß" and "fuss" are one word, "łydka" and "lydka" too. */
const plain = (text: string): string =>
  text
    .replace(/ß/g, 'ss')
    .replace(/[łŁ]/g, 'l')
    .replace(/[øØ]/g, 'o')
    .replace(/[œŒ]/g, 'oe')
    .normalize('NFD')
    .replace(/\p{Script=Latin}\p{M}+/gu, (m) => m[0]!)
    .normalize('NFC');

/** Names as drawing programs store them: signs as their numbers, copies counted up behind. */
export const plainName = (name: string): string =>
  name
    .replace(/_x([\da-f]{2,4})_/gi, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)))
    .replace(/_\d+_$/, '')
    .trim();

// a word of one language that begins one of another and means something else needs its end
const WHOLE = new Set([
  'bal',
  'ben',
  'lar',
  'har',
  'vad',
  'pe',
  'but',
  'cap',
  'rok',
  'rock',
  'ora',
  'nos',
  'pie',
  'sko',
  'fot',
  'mao',
  'cou',
  'nek',
  'mun',
  'bok',
  'main',
  'jas',
  'bec',
  'ala',
  'asa',
  'hut',
  'hat',
  'ear',
  'arm',
  'leg',
  'lip',
  'hip',
  'bag',
  'bg',
  'dij',
  'oko',
  'cara',
  'bust',
  'testa',
  'anca',
  'cape',
  'been',
  'rabo',
  'dos',
  'noga',
  'reka',
  'fond',
  'tlo',
  'cien',
  'romp',
  'corps',
  'robe',
  'wasy',
  'ogon',
  'queue',
  'body',
  'face',
]);

/** Reads the name of a group or layer. Names that say nothing give an empty reading. */
export function readPartName(name: string): PartReading {
  const tokens = tokensOf(plain(plainName(name)).replace(/\b3\s*\/\s*4\b|\b¾/g, ' quarter '));
  let side: Side | undefined;
  let kept: string[] = [];
  for (const token of tokens) {
    const own = SIDE_WORDS.get(token);
    if (own && !side) {
      side = own;
      continue;
    }
    const fused = /^(left|right|links|rechts)(.{3,})$|^(.{3,})(left|right)$/.exec(token);
    if (fused && !side) {
      side = SIDE_WORDS.get(fused[1] ?? fused[4]!)!;
      kept.push(fused[2] ?? fused[3]!);
      continue;
    }
    const marked = /^([左右])(.+)$/u.exec(token);
    if (marked && !side) {
      side = SIDE_WORDS.get(marked[1]!)!;
      kept.push(marked[2]!);
      continue;
    }
    if (!FILLER.has(token)) kept.push(token);
  }
  let upper = kept.some((t) => UPPER.has(t));
  let lower = kept.some((t) => LOWER.has(t));
  let found: { kind: PartKind; from: number; to: number } | undefined;
  // runs of words from the longest to the shortest: "upper arm" before "arm"
  for (let length = Math.min(3, kept.length); length >= 1 && !found; length--)
    for (let from = 0; from + length <= kept.length && !found; from++) {
      const run = kept.slice(from, from + length).join('');
      const hit = KIND_WORDS.find(({ word }) =>
        length > 1 || WHOLE.has(word) || word.length < 3
          ? run === word || (!isCased(word) && run.startsWith(word)) || (run === `${word}s` && word.length > 2)
          : run.startsWith(word) || (word.length > 4 && run.endsWith(word)),
      );
      if (hit) found = { kind: hit.kind, from, to: from + length };
    }
  let kind = found?.kind;
  if (found) {
    const rest = [...kept.slice(0, found.from), ...kept.slice(found.to)];
    if (kind === 'arm' || kind === 'leg') {
      const whole = kind;
      if (upper) kind = whole === 'arm' ? 'upperArm' : 'thigh';
      else if (lower) kind = whole === 'arm' ? 'forearm' : 'shin';
      if (upper || lower) kept = rest.filter((t) => !UPPER.has(t) && !LOWER.has(t));
      else kept = rest;
    } else if (kind === 'torso' && (upper || lower)) {
      kind = upper ? 'chest' : 'pelvis';
      kept = rest.filter((t) => !UPPER.has(t) && !LOWER.has(t));
    } else kept = rest;
  } else upper = lower = false;
  let depth: 'near' | 'far' | undefined;
  let view: PartView | undefined;
  const limb = kind !== undefined && LIMB_KINDS.has(kind);
  const label: string[] = [];
  for (const token of kept) {
    if (limb && !depth && NEAR.includes(token)) depth = 'near';
    else if (limb && !depth && FAR.includes(token)) depth = 'far';
    else if (!limb && !view && VIEW_WORDS.has(token)) view = VIEW_WORDS.get(token);
    else label.push(token);
  }
  return { kind, side, depth, view, label: label.join(' ') };
}

const isCased = (word: string): boolean => word.toLowerCase() !== word.toUpperCase();

/** Parts of which a body has two. */
export const LIMB_KINDS: ReadonlySet<PartKind> = new Set([
  'arm',
  'upperArm',
  'forearm',
  'hand',
  'leg',
  'thigh',
  'shin',
  'foot',
  'wing',
]);

/** Parts that lie on the head and go with it. */
export const HEAD_KINDS: ReadonlySet<PartKind> = new Set([
  'eye',
  'pupil',
  'brow',
  'mouth',
  'nose',
  'ear',
  'hair',
  'beard',
  'hat',
]);

/** Words that by themselves tell one drawing of a part from another. */
const LABELS =
  /^(open|closed|close|shut|half|wide|wink|blink|smile|smiling|frown|sad|happy|angry|neutral|rest|fist|flat|point|pointing|grip|grab|relaxed|spread|offen|zu|geschlossen|halb|ouvert|ferme|abierto|cerrado|aperto|chiuso|aberto|fechado|a|b|c|d|e|f|g|h|i|o|u|m|mbp|fv|th|l|ae|ai|oh|oo|ee|wq|x|default|normal|\d{1,3})$/;

/** Whether a name by itself is the label of a drawing: a number, a sound, open or shut. */
export const isLabel = (name: string): boolean => {
  const tokens = tokensOf(plain(plainName(name))).filter((t) => !FILLER.has(t));
  return tokens.length > 0 && tokens.length <= 2 && tokens.every((t) => LABELS.test(t));
};
