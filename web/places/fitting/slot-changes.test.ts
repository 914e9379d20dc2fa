import { takesBack } from './slot-changes';

test('taking back touches what the change touched and nothing else', () => {
  const slot = (joint: string | null) => ({ joint, state: 'sure', why: '' }) as const;
  const before = { head: slot('Head'), neck: slot('Neck'), chest: slot('Chest') } as never;
  const after = { head: slot('Skull'), chest: slot('Chest'), tail: slot('Tail') } as never;
  const since = { head: slot('Skull'), chest: slot(null), tail: slot('Tail') } as never;
  expect(takesBack(before, after)(since)).toEqual({ head: slot('Head'), neck: slot('Neck'), chest: slot(null) });
  expect(takesBack(before, before)({ head: slot('Skull') } as never)).toEqual({ head: slot('Skull') });
});
