// Names by rule: what a batch rename would make of many names. Pure; the page previews with it and then writes the result.

export interface RenameRule {
  find: string;
  replace: string;
  /** `find` is a pattern instead of plain text. */
  pattern: boolean;
  prefix: string;
  suffix: string;
  /** A whole new name; {name} {n} {kind} {tag} {side} {character} {folder} {steps} {seconds} stand for what they say. Empty keeps the name. */
  form: string;
  /** Number of the first, and how many digits numbers have at least. */
  start: number;
  digits: number;
}

export const NO_RENAME: RenameRule = {
  find: '',
  replace: '',
  pattern: false,
  prefix: '',
  suffix: '',
  form: '',
  start: 1,
  digits: 2,
};

/** What is known of an item, for names made from facts. */
export interface Nameable {
  id: string;
  name: string;
  kind: string;
  tags: readonly string[];
  folder: string;
  character: string;
  steps: number;
  seconds: number;
  /** Degrees of turning, to the left above 0. */
  turnDeg: number;
}

export interface Renamed {
  id: string;
  before: string;
  after: string;
  /** What is wrong with the new name, if anything. */
  fault: string | null;
}

export const FORM_WORDS = ['name', 'n', 'kind', 'tag', 'side', 'character', 'folder', 'steps', 'seconds'] as const;
const MOST = 200;

/** A pattern as typed, or why it is none. */
export function readPattern(find: string): RegExp | string {
  try {
    return new RegExp(find, 'gu');
  } catch (error) {
    return (error as Error).message.replace(/^Invalid regular expression: /, '');
  }
}

/** New names for items in their order; faults are told beside the name they concern. */
export function renameAll(
  items: readonly Nameable[],
  rule: RenameRule,
  taken: ReadonlySet<string> = new Set(),
): Renamed[] {
  const pattern = rule.pattern && rule.find !== '' ? readPattern(rule.find) : undefined;
  const out = items.map((item, i): Renamed => {
    const number = String(rule.start + i).padStart(rule.digits, '0');
    let name = rule.form.trim() === '' ? item.name : fill(rule.form, item, number);
    if (pattern instanceof RegExp) name = name.replace(pattern, rule.replace);
    else if (!rule.pattern && rule.find !== '') name = name.replaceAll(rule.find, rule.replace);
    name = `${rule.prefix}${name}${rule.suffix}`.replace(/\s+/g, ' ').trim();
    return { id: item.id, before: item.name, after: name, fault: faultOf(name) };
  });
  const count = new Map<string, number>();
  for (const r of out) count.set(r.after.toLowerCase(), (count.get(r.after.toLowerCase()) ?? 0) + 1);
  const own = new Set(items.map((i) => i.name.toLowerCase()));
  return out.map((r) => {
    if (r.fault !== null || r.after === r.before) return r;
    const key = r.after.toLowerCase();
    if (count.get(key)! > 1) return { ...r, fault: 'several items would get this name' };
    if (taken.has(key) && !own.has(key)) return { ...r, fault: 'another item already has this name' };
    return r;
  });
}

function faultOf(name: string): string | null {
  if (name === '') return 'the name would be empty';
  if (name.length > MOST) return `the name would have more than ${MOST} characters`;
  return null;
}

function fill(form: string, item: Nameable, number: string): string {
  const side =
    item.tags.includes('left') || item.turnDeg > 40
      ? 'left'
      : item.tags.includes('right') || item.turnDeg < -40
        ? 'right'
        : '';
  const values: Record<(typeof FORM_WORDS)[number], string> = {
    name: item.name,
    n: number,
    kind: item.kind,
    tag: item.tags[0] ?? '',
    side,
    character: item.character,
    folder: item.folder.split('/').at(-1)!.trim(),
    steps: String(item.steps),
    seconds: item.seconds.toFixed(1),
  };
  return form.replace(/\{(\w+)\}/g, (all, word: string) => values[word as keyof typeof values] ?? all);
}
