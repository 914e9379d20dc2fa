const rules = new Intl.PluralRules('en');
const numbers = new Intl.NumberFormat('en');

/** A number with its noun: "1 item", "3 items", "13,706 vertices". @param several where it is not the noun with an s */
export const many = (n: number, one: string, several = `${one}s`): string =>
  `${numbers.format(n)} ${rules.select(n) === 'one' ? one : several}`;

const LIST = new Intl.ListFormat('en', { type: 'conjunction' });

/** Things as a list in a sentence: "maps, limits, and pairs". */
export const listed = (things: readonly string[]): string => LIST.format(things);
