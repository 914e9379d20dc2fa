import { guessBodyMap, standIn, writeTrc } from '../../../motion/index';
import { wander } from '../../../motion/test/bodies';
import { markersOn } from '../../../motion/test/marker-body';
import { testDatabase, type World } from '../test/world';
import { takeIn } from './intake';
import { readForLibrary } from './read-for-library';

let w: World;
beforeAll(async () => {
  w = await testDatabase();
});
afterAll(() => w.close());

const body = standIn('A');
/** A take of one person, or of one who wears markers of the same names elsewhere. */
function take(name: string, frames: number, seed: number, person = 1) {
  const traits = { seed: person, noise: 0.0005, lost: 0, swaps: 0, names: true };
  const { markers } = markersOn(body, guessBodyMap(body), wander(body, frames, seed, 60, 0.4), traits);
  return { name: `${name}.trc`, bytes: new TextEncoder().encode(writeTrc(markers)) };
}

const bring = (file: ReturnType<typeof take>) =>
  readForLibrary(w.db, file.bytes, file.name, undefined, async (read) => {
    const { result } = await takeIn(w.db, read, { fileName: file.name, bytes: file.bytes.length }, w.personId);
    return result;
  });

test('takes of one person come in on one skeleton, which is said; those of another on their own', async () => {
  const first = await bring(take('range of motion', 200, 3));
  expect([first.known, first.warnings.join(' ')]).toEqual([false, expect.not.stringContaining('earlier take')]);
  const next = await bring(take('a short one', 40, 8));
  expect([next.rigId, next.known]).toEqual([first.rigId, true]);
  expect(next.warnings.join(' ')).toContain('on the skeleton of an earlier take');
  const other = await bring(take('somebody else', 200, 5, 2));
  expect(other.rigId).not.toBe(first.rigId);
  // and that person's next one is found among both
  expect((await bring(take('somebody else, short', 40, 9, 2))).rigId).toBe(other.rigId);
});

test('takes of one person that are dropped at once share a skeleton too', async () => {
  const both = await Promise.all([bring(take('both, one', 200, 13, 3)), bring(take('both, two', 40, 14, 3))]);
  expect(both[1]!.rigId).toBe(both[0]!.rigId);
  // one that cannot be read does not keep those behind it waiting
  const broken = { name: 'broken.trc', bytes: new TextEncoder().encode('PathFileType\t4\nnothing') };
  const [, last] = await Promise.allSettled([bring(broken), bring(take('both, three', 40, 15, 3))]);
  expect(last).toMatchObject({ value: { rigId: both[0]!.rigId } });
});

test('what is no file at all is refused as ever', async () => {
  await expect(readForLibrary(w.db, new Uint8Array(0), 'nothing.c3d', undefined, async () => 0)).rejects.toThrow(
    /empty/,
  );
});
