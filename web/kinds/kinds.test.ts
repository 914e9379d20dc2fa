import { ITEM_KINDS, KINDS } from './kinds';

test.each(ITEM_KINDS)('%s: what cannot be used as a motion says what to do instead', (kind) => {
  const { fits, versions, joins, instead } = KINDS[kind];
  expect(instead === undefined).toBe(fits && versions && joins);
});
