import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { act, screen } from '@testing-library/react';
import { makeStrip, stripToBytes } from '@velvet-reel/motion';
import { buildRig, party, wander } from '../../motion/test/bodies';
import { Refused, stand } from '../test/interface';
import { useStrip } from './strips';

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

function Row() {
  return <p>{useStrip('reading1') ? 'drawn' : 'blank'}</p>;
}

test('a strip that did not come is asked for again while its row is on the screen', async () => {
  const { server } = stand(<Row />, { answers: { 'GET /api/v1/strips': new Refused(502, 'The server is starting.') } });
  const settle = (ms: number): Promise<void> => act(async () => void (await jest.advanceTimersByTimeAsync(ms)));
  await settle(50);
  expect([server.to('GET', '/api/v1/strips').length, screen.getByText('blank')]).toEqual([1, expect.anything()]);
  const rig = buildRig();
  const strip = stripToBytes(makeStrip(rig, party(rig).map, wander(rig, 20), [], 0));
  const id = new TextEncoder().encode('reading1');
  const answer = new Uint8Array(5 + id.length + strip.length);
  answer[0] = id.length;
  answer.set(id, 1);
  new DataView(answer.buffer).setUint32(1 + id.length, strip.length, true);
  answer.set(strip, 5 + id.length);
  server.answer({ 'GET /api/v1/strips': answer });
  await settle(1100);
  expect(screen.getByText('drawn')).toBeInTheDocument();
});
