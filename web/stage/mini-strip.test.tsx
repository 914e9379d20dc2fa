import { afterEach, expect, jest, test } from '@jest/globals';
import { makeStrip } from '@velvet-reel/motion';
import { stand } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { party, posedRig, wander } from '../../motion/test/bodies';
import { MiniStrip } from './mini-strip';

/** A canvas that notes where figures are laid, and which way. */
const asked: string[] = [];
const paper = new Proxy({} as CanvasRenderingContext2D, {
  get: (_, name) =>
    name === 'canvas'
      ? document.createElement('canvas')
      : (...by: unknown[]) => {
          if (name === 'translate' || name === 'scale') asked.push(`${name} ${by.join(' ')}`);
        },
  set: () => true,
});
jest.spyOn(HTMLCanvasElement.prototype, 'getContext').mockImplementation((() => paper) as never);
afterEach(() => void asked.splice(0));

const body = posedRig(90);
const rig = rigAnswer({}, body);
const { map } = party(body);
const strip = makeStrip(body, map, wander(body, 30), [], 0);
const row = (over: boolean) => (
  <MiniStrip strip={strip} performer={rig} width={80} height={30} from={0} to={1} laps={1} over={over} />
);

test('each figure stands in its place, and is turned over there where it goes the other way', () => {
  stand(row(false));
  expect(asked).toEqual(['translate 20 0', 'translate 60 0']);
  asked.splice(0);
  stand(row(true));
  expect(asked).toEqual(['translate 20 0', 'scale -1 1', 'translate 60 0', 'scale -1 1']);
});
