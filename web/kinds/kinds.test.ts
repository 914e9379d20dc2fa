import { ITEM_KINDS, KINDS, kindOf, MOTION_KINDS } from './kinds';

test('every kind says what it is for; only those that hold a motion can be fitted, changed or joined', () => {
  expect(Object.keys(KINDS).sort()).toEqual([...ITEM_KINDS].sort());
  for (const kind of ITEM_KINDS) {
    const { content, fits, versions, joins, makes } = kindOf({ kind });
    const own = content === 'motion';
    expect([kind, fits, versions, joins]).toEqual([kind, own, own, own]);
    expect(MOTION_KINDS).toContain(makes);
    if (own) expect(makes).toBe(kind);
  }
});
