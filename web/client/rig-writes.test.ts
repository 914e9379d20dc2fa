import { QueryClient } from '@tanstack/react-query';
import { rigAnswer } from '../test/rigs';
import { ApiError } from './api';
import { knownRig, RigWrites } from './rig-writes';
import type { RigAnswer } from './types';

/** A server with one rig; refuses versions that it has passed. */
function server() {
  const kept = { rig: rigAnswer({ id: 'r', mapVersion: 1 }) };
  let asked = 0;
  const writes = new RigWrites(async () => {
    asked++;
    return kept.rig;
  });
  const send = (change: Partial<RigAnswer>) => async (now: RigAnswer) => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (change.restKind === 'locked') throw new ApiError(403, 'forbidden', 'locked');
    if (now.mapVersion !== kept.rig.mapVersion) throw new ApiError(409, 'changed-meanwhile', 'passed');
    kept.rig = { ...now, ...change, mapVersion: now.mapVersion + 1 };
    return kept.rig;
  };
  return { kept, writes, send, asked: () => asked };
}
const sets = [{ name: 'Waving arm', joints: ['LeftArm'] }];
const limits = { head: { bone: 'head', middle: [0, 1, 0], cone: 40 } } as never;

test('changes follow one another without the server being asked in between', async () => {
  const { kept, writes, send, asked } = server();
  const known = kept.rig;
  const both = [writes.write('r', known, send({ sets })), writes.write('r', known, send({ limits }))];
  expect(writes.kept('r')).toBeUndefined();
  const [first, second] = await Promise.all(both);
  expect(first!.after.limits).toBeNull();
  expect(second!.before.sets).toEqual(sets);
  expect(kept.rig).toMatchObject({ mapVersion: 3, sets, limits });
  expect(writes.kept('r')).toBe(kept.rig);
  expect(asked()).toBe(0);
});

test('where a colleague was quicker, the change is made on theirs', async () => {
  const { kept, writes, send, asked } = server();
  const known = kept.rig;
  kept.rig = { ...known, sets, mapVersion: 7 };
  await writes.write('r', known, send({ limits }));
  expect(kept.rig).toMatchObject({ sets, limits, mapVersion: 8 });
  expect(asked()).toBe(1);
});

test('a rig that keeps changing is given up on, and a refusal is told', async () => {
  const { kept, writes, send } = server();
  const always = async (): Promise<RigAnswer> => {
    throw new ApiError(409, 'changed-meanwhile', 'passed');
  };
  const before = kept.rig;
  await expect(writes.write('r', kept.rig, always)).rejects.toThrow('passed');
  await expect(writes.write('r', kept.rig, send({ restKind: 'locked' }))).rejects.toThrow('locked');
  expect(kept.rig).toBe(before);
});

test('what the page holds is not built upon after a refusal', async () => {
  const { kept, writes, send, asked } = server();
  const wrong = { ...kept.rig, heightM: 99 };
  await writes.write('r', kept.rig, send({ restKind: 'locked' })).catch(() => undefined);
  await writes.write('r', wrong, send({ sets }));
  expect(kept.rig.heightM).not.toBe(99);
  expect(asked()).toBe(1);
});

test('what is asked for while a change is on its way is answered after it', async () => {
  const { kept, writes, send } = server();
  let gets = 0;
  const get = async (): Promise<RigAnswer> => {
    gets++;
    return kept.rig;
  };
  const done = writes.write('r', kept.rig, send({ sets }));
  expect(await writes.read(get)).toMatchObject({ sets, mapVersion: 2 });
  await done;
  await writes.read(get);
  expect(gets).toBe(3);
  // one that is refused is waited for all the same
  const refused = writes.write('r', kept.rig, send({ restKind: 'locked' })).catch(() => 'refused');
  expect(await writes.read(get)).toBe(kept.rig);
  expect(await refused).toBe('refused');
});

test('the newest answer of a page is the one to go by', () => {
  const client = new QueryClient();
  client.setQueryData(['rig', 'r'], rigAnswer({ id: 'r', mapVersion: 2 }));
  client.setQueryData(['cast-rig', 'c'], rigAnswer({ id: 'r', mapVersion: 3 }));
  client.setQueryData(['cast-rig', 'd'], rigAnswer({ id: 'other', mapVersion: 9 }));
  expect(knownRig(client, 'r')!.mapVersion).toBe(3);
  expect(knownRig(client, 'nobody')).toBeUndefined();
});
