import type { BodyMap } from '../bodymap/slots';
import type { CutoutPart, CutoutRig } from '../rig/rig';
import type { CutoutArt, CutoutDrawing } from './figure';
import { readPartName } from './part-names';

/** A figure as far as its drawings go. */
export interface DrawnFigure {
  readonly rig: CutoutRig;
  readonly art: CutoutArt;
  /** Which joint is which part of the body, where that is known: near and far hands are told as left and right by it. */
  readonly map?: BodyMap | undefined;
}

/** What became of one drawing that was brought in. */
export interface MergedDrawing {
  readonly part: string;
  /** The part of the other figure that it comes from, and its label there. */
  readonly from: { readonly part: string; readonly label: string };
  /** The label that shows it now. */
  readonly label: string;
  /** 'same': the part has that picture already; 'added': under its own label; 'renamed': that label shows another picture here. */
  readonly how: 'same' | 'added' | 'renamed';
}

export interface MergeReport {
  readonly drawings: readonly MergedDrawing[];
  /** Parts of the other figure that nothing here answers to. */
  readonly unpaired: readonly string[];
}

export interface MergedFigure extends DrawnFigure {
  readonly report: MergeReport;
}

/**
 * Adds another figure's drawings to those of the same parts here: hands by two people, both numbered 1 to 6, are twelve hands
 * or fewer. A picture that is there already is shared; a label that shows something else here gets a number behind it. Drawings
 * from another page are moved so that their pivots meet; all keep their size. No label of this figure changes, so nothing made with it does.
 * @param only names of this figure's parts; all that have a partner where left out
 */
export function mergeDrawings(figure: DrawnFigure, other: DrawnFigure, only?: readonly string[]): MergedFigure {
  const { pairs, unpaired } = pairParts(figure, other);
  const report: MergedDrawing[] = [];
  const added: CutoutDrawing[] = [];
  const labels = figure.rig.parts.map((p) => [...p.drawings]);
  const ids = new Fresh(figure.art, other.art);
  for (const [from, to] of pairs) {
    const part = figure.rig.parts[to]!;
    if (only && !only.includes(part.name)) continue;
    const source = other.rig.parts[from]!;
    const by = betweenParts(figure.art, other.art, to, from);
    const own = figure.art.drawings.filter((d) => d.part === part.name);
    const known = new Map(own.map((d) => [ids.looksOf(d, 'own'), d.label]));
    for (const label of source.drawings) {
      const drawing = other.art.drawings.find((d) => d.part === source.name && d.label === label);
      if (!drawing) continue;
      const looks = ids.looksOf(drawing, 'other', by);
      const note = (now: string, how: MergedDrawing['how']): void => {
        report.push({ part: part.name, from: { part: source.name, label }, label: now, how });
      };
      const same = known.get(looks);
      if (same !== undefined) {
        note(same, 'same');
        continue;
      }
      const free = freeLabel(label, labels[to]!);
      labels[to]!.push(free);
      known.set(looks, free);
      added.push(placed(ids.renamed(drawing.svg), drawing, part.name, free, by));
      note(free, free === label ? 'added' : 'renamed');
    }
  }
  return {
    rig: { ...figure.rig, parts: figure.rig.parts.map((p, i): CutoutPart => ({ ...p, drawings: labels[i]! })) },
    art: {
      ...figure.art,
      defs: added.length > 0 ? figure.art.defs + ids.renamed(other.art.defs) : figure.art.defs,
      drawings: [...figure.art.drawings, ...added],
    },
    report: { drawings: report, unpaired },
  };
}

/** What happened, in sentences. */
export function mergeWords({ drawings, unpaired }: MergeReport): string[] {
  const of = (how: MergedDrawing['how']): MergedDrawing[] => drawings.filter((d) => d.how === how);
  const [added, renamed, same] = [of('added'), of('renamed'), of('same')];
  const many = (n: number): string => (n === 1 ? 'One drawing' : `${n} drawings`);
  const list = (all: readonly string[]): string => all.slice(0, 12).join(', ') + (all.length > 12 ? ' and more' : '');
  return [
    ...(added.length > 0 ? [`${many(added.length)} added: ${list(added.map((d) => `${d.part}: ${d.label}`))}.`] : []),
    ...(renamed.length > 0
      ? [
          `${many(renamed.length)} added under a new label, because that label shows another picture here: ${list(renamed.map((d) => `${d.part}: ${d.from.label} is now ${d.label}`))}.`,
        ]
      : []),
    ...(same.length > 0 ? [`${many(same.length)} left out: the same picture is there already.`] : []),
    ...(unpaired.length > 0 ? [`Parts without a partner here: ${list(unpaired)}.`] : []),
    ...(drawings.length === 0 ? ['No part of the two figures is the same: nothing to add.'] : []),
  ];
}

/** Parts that are the same: by name, or else by what they are, of which side (by name or by the joint they hang on) and in which view. */
function pairParts(own: DrawnFigure, other: DrawnFigure): { pairs: [from: number, to: number][]; unpaired: string[] } {
  const plain = (name: string): string =>
    name
      .toLowerCase()
      .replace(/[\s_.-]+/g, ' ')
      .trim();
  const meaning = ({ name, view, joint }: CutoutPart, whose: DrawnFigure): string | undefined => {
    const read = readPartName(name);
    return read.kind && [read.kind, read.side ?? sideOf(whose, joint), view ?? read.view].join('/');
  };
  const by =
    (key: (p: CutoutPart, whose: DrawnFigure) => string | undefined) =>
    (part: CutoutPart): number => {
      const wanted = key(part, other);
      const found = wanted === undefined ? [] : own.rig.parts.flatMap((p, i) => (key(p, own) === wanted ? [i] : []));
      return found.length === 1 ? found[0]! : -1;
    };
  const [byName, byMeaning] = [by((p) => plain(p.name)), by(meaning)];
  const pairs: [number, number][] = [];
  const unpaired: string[] = [];
  other.rig.parts.forEach((part, from) => {
    const named = byName(part);
    const to = named >= 0 ? named : byMeaning(part);
    if (to < 0 || pairs.some((p) => p[1] === to)) {
      if (part.drawings.length > 0) unpaired.push(part.name);
    } else pairs.push([from, to]);
  });
  return { pairs, unpaired };
}

/** The side of the body that a joint is on by its map; undefined in the middle, and where no map tells. */
function sideOf({ map }: DrawnFigure, joint: number): 'L' | 'R' | undefined {
  const slot = Object.entries(map?.slots ?? {}).find(([, e]) => e.joint === joint)?.[0];
  return slot && /[LR]$/.test(slot) ? (slot.slice(-1) as 'L' | 'R') : undefined;
}

/** How far apart two pivots of one part may be guessed on the same page, as a share of its diagonal. */
const SAME_PAGE = 0.03;

/**
 * How far a part's drawings are moved. Two people who drew on one page laid them where they belong, and their pivots may be
 * guessed a little apart; otherwise the pivots meet.
 */
function betweenParts(own: CutoutArt, other: CutoutArt, to: number, from: number): [number, number] {
  const by: [number, number] = [
    own.pivots[to]![0] - other.pivots[from]![0],
    own.pivots[to]![1] - other.pivots[from]![1],
  ];
  const samePage = own.box.every((v, i) => Math.abs(v - other.box[i]!) < 1e-3);
  return samePage && Math.hypot(...by) < SAME_PAGE * Math.hypot(own.box[2], own.box[3]) ? [0, 0] : by;
}

/** A label that is free: the same one, or with the first number behind it that is. */
function freeLabel(label: string, taken: readonly string[]): string {
  if (!taken.includes(label)) return label;
  for (let n = 2; ; n++) if (!taken.includes(`${label} (${n})`)) return `${label} (${n})`;
}

function placed(
  svg: string,
  drawing: CutoutDrawing,
  part: string,
  label: string,
  [x, y]: readonly [number, number],
): CutoutDrawing {
  const [left, top, width, height] = drawing.box;
  const still = Math.abs(x) < 1e-9 && Math.abs(y) < 1e-9;
  return {
    part,
    label,
    svg: still ? svg : `<g transform="translate(${Number(x.toFixed(6))} ${Number(y.toFixed(6))})">${svg}</g>`,
    box: [left + x, top + y, width, height],
  };
}

/** Names in the other figure's markup that this one's do not use. */
class Fresh {
  private readonly names = new Map<string, string>();
  private readonly classes = new Map<string, string>();

  constructor(
    private readonly own: CutoutArt,
    private readonly other: CutoutArt,
  ) {
    const [here, there] = [markupOf(own), markupOf(other)];
    fresh(idsIn(here), idsIn(there), this.names);
    fresh(classesIn(here), classesIn(there), this.classes);
  }

  /** The other figure's markup under its new names, rules of its style sheets included. */
  renamed(markup: string): string {
    const rules = (css: string): string =>
      css
        .replace(/\.(-?[A-Za-z_][\w-]*)(?=[^{}]*\{)/g, (all, name: string) => {
          const now = this.classes.get(name);
          return now ? `.${now}` : all;
        })
        .replace(/#([A-Za-z_][\w-]*)(?=[^{}]*\{)/g, (_, id: string) => `#${this.names.get(id) ?? id}`);
    return renameIds(markup, (id) => this.names.get(id) ?? id)
      .replace(/(\sclass=")([^"]+)(")/g, (_, a: string, names: string, b: string) => {
        return a + names.replace(/[^\s]+/g, (name) => this.classes.get(name) ?? name) + b;
      })
      .replace(/(<style[^>]*>)([^<]*)/g, (_, open: string, css: string) => open + rules(css));
  }

  /** What a drawing looks like, and where it lies once it is moved: two that are equal are one picture. */
  looksOf(drawing: CutoutDrawing, whose: 'own' | 'other', by: readonly [number, number] = [0, 0]): string {
    const { defs } = whose === 'own' ? this.own : this.other;
    const [x, y, width, height] = drawing.box;
    const place = [x + by[0], y + by[1], width, height].map((v) => v.toFixed(2)).join(' ');
    // what it refers to belongs to its looks, whatever that is called there
    const names: string[] = [];
    const nameless = (markup: string): string =>
      renameIds(markup, (id) => {
        if (!names.includes(id)) names.push(id);
        return `#${names.indexOf(id)}`;
      });
    // where it lies is told by its box, whether it was drawn there or moved there
    let looks = nameless(drawing.svg.replace(/^<g transform="translate\([-\d. ]+\)">(.*)<\/g>$/s, '$1'));
    for (let i = 0; i < names.length; i++) looks += nameless(elementOf(defs, names[i]!));
    return `${place}|${looks}`;
  }
}

const markupOf = ({ defs, drawings }: CutoutArt): string => defs + drawings.map((d) => d.svg).join('');

/** Gives every name of the second list one that the first does not have. */
function fresh(taken: readonly string[], names: readonly string[], into: Map<string, string>): void {
  const used = new Set(taken);
  for (const name of names) {
    if (into.has(name)) continue;
    let free = name;
    for (let n = 2; used.has(free); n++) free = `${name}-${n}`;
    used.add(free);
    into.set(name, free);
  }
}

const classesIn = (markup: string): string[] =>
  [...markup.matchAll(/\sclass="([^"]+)"/g)].flatMap((m) => m[1]!.split(/\s+/)).filter((c) => c !== '');

const idsIn = (markup: string): string[] => [...markup.matchAll(/\sid="([^"]+)"/g)].map((m) => m[1]!);

/** Ids, and what refers to them, under other names. */
const renameIds = (markup: string, name: (id: string) => string): string =>
  markup
    .replace(/(\sid=")([^"]+)(")/g, (_, a: string, id: string, b: string) => a + name(id) + b)
    .replace(/(href="#)([^"]+)(")/g, (_, a: string, id: string, b: string) => a + name(id) + b)
    .replace(/(url\((?:&quot;|["'])?#)([^)"'&]+)/g, (_, a: string, id: string) => a + name(id));

/** The element of some definitions that has an id: from its tag to the tag that closes it. */
function elementOf(defs: string, id: string): string {
  const at = defs.indexOf(` id="${id}"`);
  if (at < 0) return '';
  const start = defs.lastIndexOf('<', at);
  const tag = /^<([\w:-]+)/.exec(defs.slice(start))?.[1];
  if (!tag) return '';
  const step = new RegExp(`<(/?)${tag}(?=[\\s/>])[^>]*?(/?)>`, 'g');
  step.lastIndex = start;
  let depth = 0;
  for (let m = step.exec(defs); m; m = step.exec(defs)) {
    depth += m[1] ? -1 : m[2] ? 0 : 1;
    if (depth <= 0) return defs.slice(start, step.lastIndex);
  }
  return defs.slice(start);
}
