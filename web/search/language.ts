import { ITEM_KINDS } from '../kinds/kinds';
// What can be typed into the search field, and how it is read. Shared by the page and the server.

/** Fields that narrow, with what stands behind the colon. */
export const NARROWING_FIELDS = {
  kind: 'pose, clip, cycle, take or pack',
  tag: 'a tag',
  folder: 'words of a folder’s name',
  by: 'who made it',
  moves: 'a part that moves: arms, legs, fingers, face …',
  travel: 'in-place or travels',
  loops: 'yes or no',
  tempo: 'still, slow, walking or quick',
  length: 'brief, short, medium, long or very-long',
  longer: 'seconds: longer:4',
  shorter: 'seconds: shorter:4',
  rate: 'frames a second',
  rights: 'unknown, own, licensed or free',
  made: 'the cast member it was made for',
  rated: 'at least so many: rated:3',
  support: 'left, right, both or none: what it stands on',
  fits: 'good, fair or poor on the performer',
  is: 'favourite, mine, new, changed, unnamed or binned',
} as const;
export type NarrowingField = keyof typeof NARROWING_FIELDS;

/** Values that are known beforehand, for completion. */
export const KNOWN_VALUES: Partial<Record<NarrowingField, readonly string[]>> = {
  kind: [...ITEM_KINDS],
  travel: ['in-place', 'travels'],
  loops: ['yes', 'no'],
  tempo: ['still', 'slow', 'walking', 'quick'],
  length: ['brief', 'short', 'medium', 'long', 'very-long'],
  rights: ['unknown', 'own', 'licensed', 'free'],
  support: ['left', 'right', 'both', 'none'],
  fits: ['good', 'fair', 'poor'],
  is: ['favourite', 'mine', 'new', 'changed', 'unnamed'],
  moves: ['spine', 'neck', 'head', 'collars', 'arms', 'hands', 'fingers', 'legs', 'feet', 'toes', 'face'],
};

export interface Word {
  readonly text: string;
  /** In quotes: stands just so. */
  readonly phrase: boolean;
  readonly not: boolean;
}

export interface Narrowing {
  readonly field: NarrowingField;
  readonly value: string;
  readonly not: boolean;
}

export interface SearchText {
  readonly words: readonly Word[];
  readonly narrowings: readonly Narrowing[];
}

const isField = (name: string): name is NarrowingField => Object.hasOwn(NARROWING_FIELDS, name);
const TOKEN = /(-?)(?:([a-z]+):)?(?:"([^"]*)"?|([^\s"]+))/giu;
const MOST_TERMS = 24;

/** Reads a search. Nothing typed is an error: what is no narrowing is a word. */
export function parseSearch(text: string): SearchText {
  const words: Word[] = [];
  const narrowings: Narrowing[] = [];
  for (const [, minus, name, quoted, plain] of text.slice(0, 1000).matchAll(TOKEN)) {
    if (words.length + narrowings.length >= MOST_TERMS) break;
    const value = (quoted ?? plain ?? '').trim();
    const field = name?.toLowerCase();
    const not = minus === '-';
    if (field !== undefined && isField(field)) {
      if (value !== '') narrowings.push({ field, value: value.toLowerCase(), not });
    } else {
      const whole = field === undefined ? value : `${name}:${value}`;
      // a field whose value is still to come
      if (quoted === undefined && /^[a-z]+:$/i.test(whole) && isField(whole.slice(0, -1).toLowerCase())) continue;
      if (whole !== '' && whole !== '-') words.push({ text: whole.toLowerCase(), phrase: quoted !== undefined, not });
    }
  }
  return { words, narrowings };
}

const quote = (value: string): string => (/[\s"]/.test(value) ? `"${value.replaceAll('"', '')}"` : value);

export const writeNarrowing = ({ field, value, not }: Narrowing): string => `${not ? '-' : ''}${field}:${quote(value)}`;

export const writeWords = (words: readonly Word[]): string =>
  words.map((w) => `${w.not ? '-' : ''}${w.phrase ? `"${w.text}"` : w.text}`).join(' ');

/** Text that reads as the same search. */
export const writeSearch = ({ words, narrowings }: SearchText): string =>
  [writeWords(words), ...narrowings.map(writeNarrowing)].filter(Boolean).join(' ');

const same = (a: Narrowing, b: Narrowing): boolean => a.field === b.field && a.value === b.value && a.not === b.not;

/** The search with a narrowing put on, once. */
export const withNarrowing = (text: string, narrowing: Narrowing): string => {
  const search = parseSearch(text);
  if (search.narrowings.some((n) => same(n, narrowing))) return writeSearch(search);
  return writeSearch({ ...search, narrowings: [...search.narrowings, narrowing] });
};

export const withoutNarrowing = (text: string, narrowing: Narrowing): string => {
  const search = parseSearch(text);
  return writeSearch({ ...search, narrowings: search.narrowings.filter((n) => !same(n, narrowing)) });
};

/** The search with other words and the same narrowings; narrowings typed among the words join the others. */
export const withWords = (text: string, words: string): string => {
  const typed = parseSearch(words);
  const before = parseSearch(text).narrowings;
  return writeSearch({
    words: typed.words,
    narrowings: [...before, ...typed.narrowings.filter((n) => !before.some((b) => same(b, n)))],
  });
};

export interface Completion {
  /** What the last word becomes. */
  readonly text: string;
  readonly about: string;
}

/** What the word being typed could become: fields, then values of a field. */
export function complete(typed: string, values: Partial<Record<string, readonly string[]>> = {}): Completion[] {
  const last = /(?:^|\s)(-?)([a-z]*)(?::("?)([^"]*))?$/i.exec(typed);
  if (!last) return [];
  const [, minus = '', name = '', , value] = last;
  const field = name.toLowerCase();
  if (value === undefined) {
    if (field.length < 2) return [];
    return Object.entries(NARROWING_FIELDS)
      .filter(([f]) => f.startsWith(field))
      .map(([f, about]) => ({ text: `${minus}${f}:`, about }));
  }
  if (!isField(field)) return [];
  const all = [...(values[field] ?? []), ...(KNOWN_VALUES[field] ?? [])];
  const typedValue = value.toLowerCase();
  const begin = all.filter((v) => v.toLowerCase().startsWith(typedValue));
  const inside = begin.length > 0 ? begin : all.filter((v) => v.toLowerCase().includes(typedValue));
  return [...new Set(inside)]
    .slice(0, 8)
    .map((v) => ({ text: `${minus}${field}:${quote(v)}`, about: NARROWING_FIELDS[field] }));
}

/** The typed text with its last word replaced by a completion; a space follows a finished one. */
export const acceptCompletion = (typed: string, completion: Completion): string =>
  `${typed.replace(/(?:^|(?<=\s))\S*$|[^\s"]*:"[^"]*$/, '')}${completion.text}${completion.text.endsWith(':') ? '' : ' '}`;
