import { type Box, boxOf, joinBoxes } from '../art/mask';
import { IDENTITY, type Matrix, multiply, parseTransform } from '../art/matrix';
import { attributesText, svgText } from '../art/svg-clean';
import { byId, readSvg, type SvgFile, type SvgNode } from '../art/svg-read';
import { number, type Shape, type ShapeContext, Styles, shapesOf } from '../art/svg-shapes';
import { MotionError } from '../errors';
import { HEAD_KINDS, isLabel, type PartKind, type PartReading, plainName, readPartName } from './part-names';

/** One drawing of a part: markup in the picture's coordinates, and the shapes it is made of. */
export interface FoundDrawing {
  readonly label: string;
  readonly svg: string;
  readonly box: Box;
  readonly shapes: readonly Shape[];
  /** Whether it shows when the file is opened. */
  readonly shown: boolean;
}

/** A piece of a figure as the file has it, in the order in which it is drawn. */
export interface FoundPart {
  readonly name: string;
  readonly reading: PartReading;
  readonly drawings: readonly FoundDrawing[];
  /** Where its author marked the pivot, in the picture's units. */
  readonly pivot: readonly [number, number] | undefined;
  /** Where somebody marked the far end of its bone. */
  readonly end?: readonly [number, number] | undefined;
}

/** A layered drawing taken apart. */
export interface FoundArt {
  /** The picture's frame. */
  readonly box: Box;
  /** Gradients, clips, style sheets: markup that every drawing needs. */
  readonly defs: string;
  readonly parts: readonly FoundPart[];
  readonly notes: readonly string[];
  /** Somebody marked the joints: what a part is does not follow from its shape. */
  readonly marked?: boolean | undefined;
  /** Whether one part always goes with another, in a file that moves; one that does not has a joint of its own. */
  readonly together?: ((part: FoundPart, carrier: FoundPart) => boolean) | undefined;
}

const MAX_PARTS = 400;
const MAX_DRAWINGS = 2000;

interface Walk {
  readonly context: ShapeContext;
  readonly parts: FoundPart[];
  readonly notes: string[];
}

/** Where an element stands: what its parents do to it, as matrix and as markup about it. */
interface Place {
  readonly matrix: Matrix;
  readonly open: string;
  readonly close: string;
  readonly hidden: boolean;
  readonly reading: PartReading | undefined;
}

const GROUPS = new Set(['g', 'a', 'svg', 'switch']);
const DRAWN = new Set(['path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon', 'image', 'text', 'use']);

/**
 * Takes a layered drawing apart: which groups are parts, and which are the drawings one part can show. Names are read where
 * they say something; else every group that holds no other group is a part.
 * @throws MotionError as readSvg does, and 'bad-structure' where nothing is drawn
 */
export function findSvgParts(bytes: Uint8Array): FoundArt {
  const file = readSvg(bytes);
  return partsOf(file);
}

function partsOf({ root, leftOut }: SvgFile): FoundArt {
  const sheets: string[] = [];
  const defs: string[] = [];
  const gather = (node: SvgNode): void => {
    if (node.tag === 'style') {
      sheets.push(node.text);
      if (node.text.trim()) defs.push(`<style>${node.text.replace(/&/g, '&amp;')}</style>`);
    } else if (node.tag === 'defs') {
      defs.push(
        node.children
          .filter((c) => c.tag !== 'style')
          .map(svgText)
          .join(''),
      );
      node.children.filter((c) => c.tag === 'style').forEach(gather);
    } else if (/^(linearGradient|radialGradient|clipPath|mask|pattern|filter|marker|symbol)$/.test(node.tag))
      defs.push(svgText(node));
    else node.children.forEach(gather);
  };
  gather(root);
  const context: ShapeContext = { ids: byId(root), styles: new Styles(sheets) };
  // what a use refers to may be drawn elsewhere in the file
  const within = new Set<SvgNode>();
  const mark = (node: SvgNode, inDefs: boolean): void => {
    if (inDefs) within.add(node);
    for (const child of node.children) mark(child, inDefs || node.tag === 'defs' || node.tag === 'symbol');
  };
  mark(root, false);
  const used = new Set<SvgNode>();
  const lookUp = (node: SvgNode): void => {
    const id = node.tag === 'use' ? (node.attributes.href ?? node.attributes['xlink:href'])?.slice(1) : undefined;
    const target = id === undefined ? undefined : context.ids.get(id);
    if (target && !within.has(target)) used.add(target);
    node.children.forEach(lookUp);
  };
  lookUp(root);
  for (const node of used) if (node !== root) defs.push(svgText(node));
  const walk: Walk = { context, parts: [], notes: [] };
  const { box, matrix } = frameOf(root);
  const place: Place = {
    matrix,
    open: isIdentity(matrix) ? '' : `<g transform="matrix(${matrix.join(' ')})">`,
    close: isIdentity(matrix) ? '' : '</g>',
    hidden: false,
    reading: undefined,
  };
  collect(walk, root, place);
  const parts = mergeAlternates(walk.parts);
  if (parts.length === 0)
    throw new MotionError('bad-structure', 'Nothing is drawn in this file, or nothing in it is visible.');
  if (parts.length > MAX_PARTS)
    throw new MotionError('too-large', `The drawing comes to ${parts.length} parts; at most ${MAX_PARTS} are taken.`);
  if (parts.reduce((n, p) => n + p.drawings.length, 0) > MAX_DRAWINGS)
    throw new MotionError('too-large', `The drawing holds more than ${MAX_DRAWINGS} drawings.`);
  const all = parts.flatMap((p) => p.drawings.filter((d) => d.shown).map((d) => d.box));
  const drawn = all.slice(1).reduce(joinBoxes, all[0] ?? parts[0]!.drawings[0]!.box);
  if (leftOut.length > 0) walk.notes.push(`Left out of the drawing: ${leftOut.join(', ')}.`);
  return { box: box ?? drawn, defs: defs.join(''), parts: named(parts), notes: walk.notes };
}

/** The picture's frame, and what its outermost element does to what is in it. */
function frameOf(root: SvgNode): { box: Box | undefined; matrix: Matrix } {
  const view = (root.attributes.viewBox ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  if (view.length === 4 && view.every(Number.isFinite) && view[2]! > 0 && view[3]! > 0)
    return { box: view as unknown as Box, matrix: IDENTITY };
  const size = [number(root.attributes.width, 0), number(root.attributes.height, 0)];
  return { box: size[0]! > 0 && size[1]! > 0 ? [0, 0, size[0]!, size[1]!] : undefined, matrix: IDENTITY };
}

const isIdentity = (m: Matrix): boolean => m.every((x, i) => x === IDENTITY[i]);

/** The name a person gave an element, as drawing programs keep it. */
function nameOf(node: SvgNode): string {
  const a = node.attributes;
  const title = node.children.find((c) => c.tag === 'title')?.text.trim();
  return plainName(a['inkscape:label'] ?? a['serif:id'] ?? a['data-name'] ?? title ?? a.id ?? '');
}

const drawnChildren = (node: SvgNode): SvgNode[] =>
  node.children.filter((c) => (GROUPS.has(c.tag) && c.tag !== 'switch') || c.tag === 'switch' || DRAWN.has(c.tag));

const isPivotMark = (name: string): boolean =>
  /^(pivot|joint|anchor|gelenk|drehpunkt|articulation|axe|articulacion|perno|articolazione)([\s_.:-]|$)/i.test(name);

/** Whether a group stands for several parts of a body: names within it tell other parts than its own. */
function holdsParts(node: SvgNode, own: PartReading): boolean {
  const kinds = new Set<string>();
  const views = new Set(drawnChildren(node).map((c) => readPartName(nameOf(c)).view));
  views.delete(undefined);
  if (views.size > 1) return true;
  const walk = (el: SvgNode): void => {
    for (const child of drawnChildren(el)) {
      const r = within(readPartName(nameOf(child)), own);
      if (r.kind && !isLabel(nameOf(child))) kinds.add(`${r.kind}${r.side ?? ''}${r.view ?? ''}`);
      if (GROUPS.has(child.tag)) walk(child);
    }
  };
  walk(node);
  if (own.kind) {
    kinds.delete(`${own.kind}${own.side ?? ''}${own.view ?? ''}`);
    for (const kind of [...kinds]) if (kind.startsWith(own.kind) && !own.side && !own.view) kinds.delete(kind);
    // "hand" with "hand open" within is one part
    for (const kind of [...kinds]) if (kind === own.kind) kinds.delete(kind);
  }
  // what a limb's end or a feature consists of is no part of its own
  if (own.kind && (own.kind === 'hand' || own.kind === 'foot' || (HEAD_KINDS.has(own.kind) && own.kind !== 'eye')))
    return false;
  return kinds.size > 0;
}

function collect(walk: Walk, node: SvgNode, place: Place): void {
  const children = drawnChildren(node);
  const loose: SvgNode[] = [];
  const flush = (): void => {
    if (loose.length === 0) return;
    const list = loose.splice(0);
    addPart(
      walk,
      list,
      inside(walk, node, place),
      nameOf(node) || 'piece',
      place.reading ?? readPartName(nameOf(node)),
    );
  };
  const grouped = children.some((c) => GROUPS.has(c.tag));
  for (const child of children) {
    const name = nameOf(child);
    const reading = within(readPartName(name), place.reading);
    const group = GROUPS.has(child.tag);
    if (isPivotMark(name)) continue;
    if (!group) {
      // a shape with a telling name, or one of a drawing without any groups, is a part
      if (readPartName(name).kind || (!grouped && node.tag === 'svg') || child.tag === 'image' || child.tag === 'use') {
        flush();
        addPart(walk, [child], inside(walk, node, place), name || child.tag, reading);
      } else loose.push(child);
      continue;
    }
    flush();
    const below = { ...inside(walk, node, place), reading };
    const alternates = alternatesOf(walk, child, reading);
    if (alternates) addAlternates(walk, child, alternates, below, name, reading);
    else if (
      holdsParts(child, readPartName(name)) ||
      (!reading.kind && drawnChildren(child).some((c) => GROUPS.has(c.tag)))
    )
      collect(walk, child, below);
    else addPart(walk, [child], below, name || child.tag, reading);
  }
  flush();
}

/** What a name leaves open its group tells: the side, the view, and the limb that "upper" and "lower" speak of. */
function within(own: PartReading, outer: PartReading | undefined): PartReading {
  if (!outer) return own;
  let kind = own.kind;
  if (!kind && (outer.kind === 'arm' || outer.kind === 'leg')) {
    if (/^(upper|ober|haut|superior|boven|up)/.test(own.label)) kind = outer.kind === 'arm' ? 'upperArm' : 'thigh';
    else if (/^(lower|unter|bas|inferior|onder|low)/.test(own.label)) kind = outer.kind === 'arm' ? 'forearm' : 'shin';
  }
  return {
    kind,
    side: own.side ?? outer.side,
    depth: own.depth ?? outer.depth,
    view: own.view ?? outer.view,
    label: own.label,
  };
}

/** Place of the children of a node. */
function inside(walk: Walk, node: SvgNode, place: Place): Place {
  if (node.tag === 'svg' && place.reading === undefined && place.open === '') {
    // the outermost element's own paint counts for all in it
    const { id: _id, viewBox: _v, width: _w, height: _h, x: _x, y: _y, ...rest } = node.attributes;
    const own = Object.fromEntries(Object.entries(rest).filter(([k]) => !/^(preserveAspectRatio|overflow)$/.test(k)));
    return Object.keys(own).length === 0
      ? place
      : { ...place, open: `${place.open}<g${attributesText(own)}>`, close: `</g>${place.close}` };
  }
  const { id: _id, ...attributes } = node.attributes;
  const shown = Object.fromEntries(Object.entries(attributes).filter(([k]) => !/^(inkscape:|serif:|data-)/.test(k)));
  return {
    matrix: multiply(place.matrix, parseTransform(node.attributes.transform)),
    open: Object.keys(shown).length === 0 ? place.open : `${place.open}<g${attributesText(shownAnyway(shown))}>`,
    close: Object.keys(shown).length === 0 ? place.close : `</g>${place.close}`,
    hidden: place.hidden || walk.context.styles.hides(node),
    reading: place.reading,
  };
}

/** Attributes of an element that was hidden, without what hides it: its drawings are shown when they are asked for. */
function shownAnyway(attributes: Readonly<Record<string, string>>): Record<string, string> {
  const { display, visibility, ...rest } = attributes;
  const out: Record<string, string> = { ...rest };
  if (display !== undefined && display !== 'none') out.display = display;
  if (visibility === 'visible') out.visibility = visibility;
  if (out.opacity !== undefined && Number.parseFloat(out.opacity) === 0) delete out.opacity;
  if (out.style !== undefined) {
    out.style = out.style
      .split(';')
      .filter((d) => !/^\s*(display\s*:\s*none|visibility\s*:\s*(hidden|collapse)|opacity\s*:\s*0*\.?0*\s*$)/.test(d))
      .join(';');
    if (out.style === '') delete out.style;
  }
  return out;
}

/** The children of a group that are drawings to choose from; undefined where it is one picture. */
function alternatesOf(walk: Walk, node: SvgNode, reading: PartReading): SvgNode[] | undefined {
  const children = drawnChildren(node).filter((c) => !isPivotMark(nameOf(c)));
  if (children.length < 2) return undefined;
  const hidden = children.filter((c) => walk.context.styles.hides(c)).length;
  const labels = children.filter((c) => isLabel(nameOf(c)) || isOwnLabel(nameOf(c), reading)).length;
  const one = hidden >= children.length - 1 && children.length - hidden <= 1;
  const kindOfOwn =
    reading.kind !== undefined && !/^(torso|chest|pelvis|thigh|shin|upperArm|leg|arm)$/.test(reading.kind);
  if ((one && labels > 0) || (labels === children.length && (kindOfOwn || hidden > 0))) return children;
  // one shows and the others are hidden, whatever they are called, unless they are parts of a body
  if (one && children.every((c) => GROUPS.has(c.tag)) && reading.kind) {
    const kinds = new Set(children.map((c) => readPartName(nameOf(c)).kind ?? reading.kind));
    const views = new Set(children.map((c) => readPartName(nameOf(c)).view));
    if (kinds.size === 1 && (views.size === 1 || reading.kind !== 'head')) return children;
  }
  return undefined;
}

/** "mouth A" within "mouth". */
function isOwnLabel(name: string, reading: PartReading): boolean {
  const own = readPartName(name);
  return own.kind !== undefined && own.kind === reading.kind && own.label !== '' && own.view === undefined;
}

/** An element together with what stands about it. */
function drawing(walk: Walk, nodes: readonly SvgNode[], place: Place, label: string): FoundDrawing | undefined {
  const shapes: Shape[] = [];
  let svg = '';
  let shown = false;
  for (const node of nodes) {
    const hides = walk.context.styles.hides(node);
    if (!hides) shown = true;
    shapes.push(...shapesOf(walk.context, node, place.matrix, true));
    const own: SvgNode = { ...node, attributes: shownAnyway(node.attributes) };
    // a class may hide it: what stands on the element itself wins
    if (hides && node.attributes.class)
      (own.attributes as Record<string, string>).style =
        `${own.attributes.style ? `${own.attributes.style};` : ''}display:inline;visibility:visible`;
    svg += svgText(own);
  }
  const box = boxOf(shapes);
  if (!box) return undefined;
  return { label, svg: `${place.open}${svg}${place.close}`, box, shapes, shown: shown && !place.hidden };
}

function addPart(walk: Walk, nodes: readonly SvgNode[], place: Place, name: string, reading: PartReading): void {
  const made = drawing(walk, nodes, place, reading.label || 'plain');
  if (!made) return;
  walk.parts.push({ name, reading, drawings: [made], pivot: markedPivot(walk, nodes[0]!, place, made.box) });
}

function addAlternates(
  walk: Walk,
  node: SvgNode,
  children: readonly SvgNode[],
  place: Place,
  name: string,
  reading: PartReading,
): void {
  const below = inside(walk, node, { ...place, open: place.open, close: place.close });
  const drawings: FoundDrawing[] = [];
  const taken = new Set<string>();
  children.forEach((child, i) => {
    const own = readPartName(nameOf(child));
    let label = (own.kind && own.kind === reading.kind ? own.label : '') || nameOf(child) || String(i + 1);
    while (taken.has(label)) label = `${label} b`;
    taken.add(label);
    const made = drawing(walk, [child], below, label);
    if (made) drawings.push(made);
  });
  if (drawings.length === 0) return;
  walk.parts.push({
    name: name || 'piece',
    reading,
    drawings: shownFirst(drawings),
    pivot: markedPivot(walk, node, place, drawings[0]!.box),
  });
}

/** What shows at rest stands first, the others in their order. */
const shownFirst = (drawings: readonly FoundDrawing[]): FoundDrawing[] => {
  const first = drawings.findIndex((d) => d.shown);
  return first <= 0 ? [...drawings] : [drawings[first]!, ...drawings.filter((_, i) => i !== first)];
};

/** A pivot that the author marked: a child called so, or the turning centre that a drawing program keeps. */
function markedPivot(walk: Walk, node: SvgNode, place: Place, box: Box): [number, number] | undefined {
  const told = node.attributes['data-velvet-pivot']
    ?.trim()
    .split(/[\s,]+/)
    .map(Number);
  if (told?.length === 2 && told.every(Number.isFinite)) return [told[0]!, told[1]!];
  const matrix = multiply(place.matrix, parseTransform(node.attributes.transform));
  for (const child of node.children) {
    if (!isPivotMark(nameOf(child))) continue;
    const at = boxOf(shapesOf(walk.context, child, matrix, true));
    if (at) return [at[0] + at[2] / 2, at[1] + at[3] / 2];
  }
  const [x, y] = [node.attributes['inkscape:transform-center-x'], node.attributes['inkscape:transform-center-y']];
  if (x !== undefined || y !== undefined)
    return [box[0] + box[2] / 2 + number(x, 0), box[1] + box[3] / 2 - number(y, 0)];
  return undefined;
}

/** Parts of one kind, side and view that lie on the same spot and differ by a label are drawings of one part. */
export function mergeAlternates(parts: readonly FoundPart[]): FoundPart[] {
  const out: FoundPart[] = [];
  const ALTERNATING: readonly PartKind[] = ['mouth', 'eye', 'hand', 'brow', 'pupil', 'foot'];
  const first = new Map<string, number>();
  for (const part of parts) {
    const { kind, side, view, label, depth } = part.reading;
    const key = kind && ALTERNATING.includes(kind) ? `${kind} ${side ?? ''} ${depth ?? ''} ${view ?? ''}` : undefined;
    const i = key === undefined ? undefined : first.get(key);
    const before = i === undefined ? undefined : out[i];
    const labelled = label !== '' && part.drawings.length === 1;
    if (
      before &&
      labelled &&
      before.drawings.every((d) => d.label !== label) &&
      near(before.drawings[0]!.box, part.drawings[0]!.box)
    ) {
      const drawings = [...before.drawings, { ...part.drawings[0]!, label }];
      out[i!] = { ...before, drawings: shownFirst(drawings), name: stemOf(before, part) };
      continue;
    }
    if (key !== undefined && i === undefined) first.set(key, out.length);
    out.push(part);
  }
  // two limbs of one kind that nobody told apart stay two parts
  return out;
}

function near(a: Box, b: Box): boolean {
  const middle = (x: Box): [number, number] => [x[0] + x[2] / 2, x[1] + x[3] / 2];
  const [p, q] = [middle(a), middle(b)];
  const size = Math.max(a[2], a[3], b[2], b[3]);
  return Math.hypot(p[0] - q[0], p[1] - q[1]) < 0.6 * size;
}

function stemOf(a: FoundPart, b: FoundPart): string {
  let i = 0;
  while (i < a.name.length && i < b.name.length && a.name[i] === b.name[i]) i++;
  const stem = a.name.slice(0, i).replace(/[\s_.:-]+$/, '');
  return stem.length >= 3 ? stem : a.name;
}

/** Every part with a name of its own: of those called alike, the later ones are told apart by their view, or numbered. */
export function named(parts: readonly FoundPart[]): FoundPart[] {
  const taken = new Set<string>();
  return parts.map((part) => {
    const called = (part.name || part.reading.kind || 'piece').slice(0, 80);
    const { view } = part.reading;
    const stem = taken.has(called) && view ? `${called} ${view}` : called;
    let name = stem;
    for (let i = 2; taken.has(name); i++) name = `${stem} ${i}`;
    taken.add(name);
    return { ...part, name };
  });
}
