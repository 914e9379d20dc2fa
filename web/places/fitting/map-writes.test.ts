import { ApiError } from '@/client/api';
import { type KeptMap, MapWrites, type Slots, takesBack } from './map-writes';

const slot = (joint: string | null) =>
  ({ joint, state: joint === null ? 'empty' : 'sure', why: '' }) as unknown as Slots[string];
const empties = (name: string) => (slots: Slots) => ({ ...slots, [name]: slot(null) });

/** A server with one map; refuses versions that it has passed. */
function server(first: Slots) {
  const kept = { slots: first, version: 1 };
  let asked = 0;
  const put = async (_: string, slots: Slots, version: number): Promise<KeptMap> => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (slots.locked) throw new ApiError(403, 'forbidden', 'locked');
    if (version !== kept.version) throw new ApiError(409, 'changed-meanwhile', 'passed');
    kept.slots = slots;
    kept.version++;
    return { ...kept };
  };
  const get = async (): Promise<KeptMap> => {
    asked++;
    return { ...kept };
  };
  return { kept, writes: new MapWrites(get, put), asked: () => asked };
}
const MAP: Slots = { head: slot('Head'), neck: slot('Neck'), chest: slot('Chest') };

test('changes follow one another without the server being asked in between', async () => {
  const { kept, writes, asked } = server(MAP);
  const known = { slots: MAP, version: 1 };
  const both = [writes.write('r', empties('head'), known), writes.write('r', empties('neck'), known)];
  expect(writes.kept('r')).toBeUndefined();
  await Promise.all(both);
  expect(kept).toMatchObject({ version: 3, slots: { head: { joint: null }, neck: { joint: null } } });
  expect(writes.kept('r')).toEqual(kept);
  expect(asked()).toBe(0);
});

test('where a colleague was quicker, the change is made on theirs', async () => {
  const { kept, writes, asked } = server(MAP);
  kept.slots = empties('chest')(kept.slots);
  kept.version = 7;
  await writes.write('r', empties('head'), { slots: MAP, version: 1 });
  expect(kept.slots).toMatchObject({ head: { joint: null }, chest: { joint: null }, neck: { joint: 'Neck' } });
  expect(asked()).toBe(1);
});

test('a map that keeps changing is given up on, and a refusal is told', async () => {
  const { kept, writes } = server(MAP);
  const racing = new MapWrites(
    async () => ({ ...kept }),
    async () => {
      throw new ApiError(409, 'changed-meanwhile', 'passed');
    },
  );
  await expect(racing.write('r', empties('head'), undefined)).rejects.toThrow('passed');
  await expect(writes.write('r', (s) => ({ ...s, locked: slot(null) }), { ...kept })).rejects.toThrow('locked');
  expect(kept.slots).toBe(MAP);
});

test('what the page holds is not built upon after a refusal', async () => {
  const { kept, writes, asked } = server(MAP);
  const wrong = { ...MAP, head: slot('Wrong') };
  await writes.write('r', (s) => ({ ...s, locked: slot(null) }), { ...kept }).catch(() => undefined);
  await writes.write('r', empties('neck'), { slots: wrong, version: 1 });
  expect(kept.slots.head).toEqual(MAP.head);
  expect(asked()).toBe(1);
});

test('taking back touches what the change touched and nothing else', async () => {
  const { kept, writes } = server(MAP);
  const back = await writes.write('r', (s) => ({ ...s, head: slot(null), tail: slot('Tail') }), { ...kept });
  await writes.write('r', empties('chest'), { ...kept });
  await writes.write('r', back, { ...kept });
  expect(kept.slots).toEqual({ ...MAP, chest: slot(null) });
  expect(takesBack(MAP, MAP)({ ...kept.slots })).toEqual(kept.slots);
});
