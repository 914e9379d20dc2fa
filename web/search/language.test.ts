import fc from 'fast-check';
import {
  acceptCompletion,
  complete,
  NARROWING_FIELDS,
  type NarrowingField,
  parseSearch,
  withNarrowing,
  withoutNarrowing,
  withWords,
  writeSearch,
} from './language';

const words = (text: string) =>
  parseSearch(text).words.map((w) => `${w.not ? '-' : ''}${w.phrase ? `"${w.text}"` : w.text}`);
const narrowings = (text: string) =>
  parseSearch(text).narrowings.map((n) => `${n.not ? '-' : ''}${n.field}=${n.value}`);

test.each([
  ['rope haul', ['rope', 'haul'], []],
  ['Rope  -Haul', ['rope', '-haul'], []],
  ['"two hands" deck', ['"two hands"', 'deck'], []],
  ['-"two hands"', ['-"two hands"'], []],
  ['kind:clip walk', ['walk'], ['kind=clip']],
  ['-tag:wet longer:4', [], ['-tag=wet', 'longer=4']],
  ['tag:"two hands"', [], ['tag=two hands']],
  ['colour:red', ['colour:red'], []],
  ['kind:', [], []],
  ['"open quote', ['"open quote"'], []],
  ['-', [], []],
  ['', [], []],
  ['KIND:Cycle', [], ['kind=cycle']],
])('%s', (text, wanted, narrowed) => {
  expect(words(text)).toEqual(wanted);
  expect(narrowings(text)).toEqual(narrowed);
});

test('what is written reads as the same search, whatever was typed', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 80 }), (text) => {
      const once = parseSearch(text);
      expect(parseSearch(writeSearch(once))).toEqual(once);
    }),
    { numRuns: 500 },
  );
});

test('a narrowing goes on once and comes off again, the rest untouched', () => {
  const fields = Object.keys(NARROWING_FIELDS) as NarrowingField[];
  fc.assert(
    fc.property(
      fc.constantFrom(...fields),
      fc.stringMatching(/^[a-z][a-z ]{0,9}$/).map((v) => v.trim()),
      fc.boolean(),
      (field, value, not) => {
        const narrowing = { field, value, not };
        const before = 'rope "two hands" -slow tag:wet';
        const on = withNarrowing(before, narrowing);
        expect(withNarrowing(on, narrowing)).toBe(on);
        expect(parseSearch(on).narrowings).toContainEqual(narrowing);
        if (!(field === 'tag' && value === 'wet' && !not))
          expect(parseSearch(withoutNarrowing(on, narrowing))).toEqual(parseSearch(before));
      },
    ),
  );
});

test('words are replaced and narrowings kept; those typed among the words join them', () => {
  expect(writeSearch(parseSearch(withWords('rope kind:clip', 'walk tag:wet')))).toBe('walk kind:clip tag:wet');
  expect(withWords('rope kind:clip', '')).toBe('kind:clip');
  expect(withWords('kind:clip', 'kind:clip')).toBe('kind:clip');
});

test('a long text is cut, not choked on', () => {
  const many = Array.from({ length: 5000 }, (_, i) => `w${i}`).join(' ');
  expect(parseSearch(many).words.length).toBeLessThanOrEqual(24);
});

describe('completion', () => {
  test('offers fields after two letters, then values of the field', () => {
    expect(complete('walk ki').map((c) => c.text)).toEqual(['kind:']);
    expect(complete('k')).toEqual([]);
    expect(complete('kind:cl').map((c) => c.text)).toEqual(['kind:clip']);
    expect(complete('-kind:cl').map((c) => c.text)).toEqual(['-kind:clip']);
    expect(complete('tag:ha', { tag: ['two hands', 'haul', 'wet'] }).map((c) => c.text)).toEqual(['tag:haul']);
    expect(complete('tag:hands', { tag: ['two hands', 'haul'] }).map((c) => c.text)).toEqual(['tag:"two hands"']);
    expect(complete('nothing:x')).toEqual([]);
  });

  test('takes the place of the last word only', () => {
    expect(acceptCompletion('rope ki', { text: 'kind:', about: '' })).toBe('rope kind:');
    expect(acceptCompletion('rope kind:cl', { text: 'kind:clip', about: '' })).toBe('rope kind:clip ');
    expect(acceptCompletion('rope tag:"two ha', { text: 'tag:"two hands"', about: '' })).toBe('rope tag:"two hands" ');
  });

  test('what it offers is a narrowing that is understood', () => {
    for (const field of Object.keys(NARROWING_FIELDS))
      for (const offer of complete(`${field}:`)) expect(narrowings(offer.text)).toHaveLength(1);
  });
});
