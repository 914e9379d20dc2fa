import { SaxesParser } from 'saxes';
import { MotionError } from '../errors';
import { cleanAttribute, cleanStyleSheet, KEPT_ELEMENTS, OWN_DRAWN_ELEMENTS } from './svg-clean';

/** An element of a drawing after cleaning: nothing in it runs, and nothing in it refers to anything outside the file. */
export interface SvgNode {
  /** Without a name space: g, path, linearGradient … */
  readonly tag: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: readonly SvgNode[];
  /** Text of style, title, desc, text and tspan. */
  readonly text: string;
  /** Line in the file, from 1. */
  readonly line: number;
}

/** A drawing that was read and cleaned. */
export interface SvgFile {
  readonly root: SvgNode;
  /** What was left out, in words, each once. */
  readonly leftOut: readonly string[];
}

export const MAX_SVG_BYTES = 32 * 1024 * 1024;
const MAX_NODES = 100_000;
const MAX_DEPTH = 96;
/** Elements that stand in for others may come to so many in all: nested `use` doubles at each step. */
const MAX_USED = 20_000;
const MAX_CHAIN = 400;
const MAX_ATTRIBUTE = 16 * 1024 * 1024;

interface Open {
  tag: string;
  attributes: Record<string, string>;
  children: SvgNode[];
  text: string[];
  line: number;
  /** Neither this element nor anything in it is kept. */
  dropped: boolean;
}

/**
 * Reads an SVG file as art from strangers: elements and attributes outside a short list are left out, addresses other than
 * those of the file's own elements and of embedded pictures too; entities are not expanded.
 * @param bytes UTF-8 or UTF-16 with a byte order mark
 * @throws MotionError 'empty', 'too-large', 'not-this-format' or 'bad-structure', with the line
 */
export function readSvg(bytes: Uint8Array): SvgFile {
  if (bytes.length === 0) throw new MotionError('empty', 'The file is empty.');
  if (bytes.length > MAX_SVG_BYTES)
    throw new MotionError('too-large', `The drawing has more than ${MAX_SVG_BYTES / 2 ** 20} MiB.`);
  const text = decodeText(bytes);
  const leftOut = new Set<string>();
  const stack: Open[] = [];
  let root: SvgNode | undefined;
  let nodes = 0;
  const parser = new SaxesParser({ xmlns: false, position: true });
  // what a document declares as entities stands for nothing: name spaces of drawing programs, or a trap
  for (const [, name] of text.matchAll(/<!ENTITY\s+([\w.-]{1,64})\s/g)) parser.ENTITIES[name!] = '';
  parser.on('error', (error) => {
    throw new MotionError(
      root || stack.length > 0 ? 'bad-structure' : 'not-this-format',
      `The drawing is not well-formed XML: ${error.message.replace(/^\d+:\d+:\s*/, '').slice(0, 120)}`,
      { line: parser.line },
    );
  });
  parser.on('opentag', ({ name, attributes }) => {
    if (++nodes > MAX_NODES)
      throw new MotionError('too-large', `The drawing has more than ${MAX_NODES} elements.`, { line: parser.line });
    if (stack.length >= MAX_DEPTH)
      throw new MotionError('too-large', `Elements are nested more than ${MAX_DEPTH} deep.`, { line: parser.line });
    const tag = localName(name);
    if (stack.length === 0 && tag !== 'svg')
      throw new MotionError('not-this-format', `The file's outermost element is <${tag.slice(0, 40)}>, not <svg>.`, {
        line: parser.line,
      });
    const within = stack.at(-1)?.dropped ?? false;
    const dropped = within || !KEPT_ELEMENTS.has(tag) || name.includes(':');
    // what drawing programs keep for themselves is no loss
    if (dropped && !within && !name.includes(':') && !OWN_DRAWN_ELEMENTS.has(tag)) leftOut.add(`<${tag.slice(0, 40)}>`);
    const kept: Record<string, string> = {};
    if (!dropped)
      for (const [key, raw] of Object.entries(attributes)) {
        const value = cleanAttribute(tag, key, raw, (why) => leftOut.add(why));
        if (value === undefined) continue;
        if (value.length > MAX_ATTRIBUTE)
          throw new MotionError('too-large', 'An attribute is too long.', { line: parser.line });
        kept[key] = value;
      }
    stack.push({ tag, attributes: kept, children: [], text: [], line: parser.line, dropped });
  });
  const take = (part: string): void => {
    const open = stack.at(-1);
    if (open && !open.dropped && /^(style|title|desc|text|tspan)$/.test(open.tag)) open.text.push(part);
  };
  parser.on('text', take);
  parser.on('cdata', take);
  parser.on('closetag', () => {
    const open = stack.pop()!;
    if (open.dropped) return;
    const joined = open.text.join('');
    const node: SvgNode = {
      tag: open.tag,
      attributes: open.attributes,
      children: open.children,
      text: open.tag === 'style' ? cleanStyleSheet(joined, (why) => leftOut.add(why)) : joined,
      line: open.line,
    };
    const parent = stack.at(-1);
    if (parent) parent.children.push(node);
    else root = node;
  });
  parser.write(text).close();
  if (!root) throw new MotionError('not-this-format', 'The file holds no <svg> element.');
  checkUses(root);
  return { root, leftOut: [...leftOut] };
}

const localName = (name: string): string => name.slice(name.indexOf(':') + 1);

function decodeText(bytes: Uint8Array): string {
  const utf16 = (bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff);
  if (!utf16) return utf8(bytes);
  const little = bytes[0] === 0xff;
  let out = '';
  for (let i = 2; i + 1 < bytes.length; i += 2)
    out += String.fromCharCode(little ? bytes[i]! | (bytes[i + 1]! << 8) : (bytes[i]! << 8) | bytes[i + 1]!);
  return out;
}

const utf8 = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** Elements by their id; of equal ids the first. */
export function byId(root: SvgNode): Map<string, SvgNode> {
  const out = new Map<string, SvgNode>();
  const walk = (node: SvgNode): void => {
    const id = node.attributes.id;
    if (id !== undefined && !out.has(id)) out.set(id, node);
    for (const child of node.children) walk(child);
  };
  walk(root);
  return out;
}

/** The id that a use or an image of this file's own refers to. */
export const referredId = (node: SvgNode): string | undefined => {
  const href = node.attributes.href ?? node.attributes['xlink:href'];
  return href?.startsWith('#') ? href.slice(1) : undefined;
};

/** Refuses drawings whose elements stand in for one another in a circle or in endless numbers. */
function checkUses(root: SvgNode): void {
  const ids = byId(root);
  const sizes = new Map<SvgNode, number>();
  const size = (node: SvgNode, above: ReadonlySet<SvgNode>): number => {
    const known = sizes.get(node);
    if (known !== undefined) return known;
    if (above.has(node))
      throw new MotionError('bad-structure', 'An element is drawn inside itself.', { line: node.line });
    if (above.size > MAX_CHAIN)
      throw new MotionError('too-large', `More than ${MAX_CHAIN} elements stand in for one another.`, {
        line: node.line,
      });
    const inside = new Set(above).add(node);
    let sum = 1;
    for (const child of node.children) sum += size(child, inside);
    const id = node.tag === 'use' ? referredId(node) : undefined;
    const used = id === undefined ? undefined : ids.get(id);
    if (used) sum += size(used, inside);
    if (sum > MAX_USED + MAX_NODES)
      throw new MotionError('too-large', `Copies of elements come to more than ${MAX_USED}.`, { line: node.line });
    sizes.set(node, sum);
    return sum;
  };
  size(root, new Set());
}
