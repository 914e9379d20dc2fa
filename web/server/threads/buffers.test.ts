import { buffersIn } from './buffers';

test('large results are handed over, each once; small ones and those that share memory are copied', () => {
  const large = new Uint8Array(200_000);
  const also = new Float32Array(100_000);
  const shared = new Uint8Array(new ArrayBuffer(300_000), 10, 200_000);
  const result = {
    ok: { packed: large, again: large, clips: [{ turns: also }], small: new Uint8Array(10), shared, text: 'x' },
  };
  const found = buffersIn(result);
  expect(found).toHaveLength(2);
  expect([found[0] === large.buffer, found[1] === also.buffer]).toEqual([true, true]);
  expect(buffersIn({ refused: { code: 'x' } })).toEqual([]);
  expect(buffersIn(Buffer.from('a small one from the pool'))).toEqual([]);
});
