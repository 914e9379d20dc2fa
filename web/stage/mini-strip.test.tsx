import { expect, jest, test } from '@jest/globals';
import { asSkeleton, bodyMapToJson, cutoutFromSvg, makeStrip, rigToJson } from '@velvet-reel/motion';
import { stand } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { party, posedRig, wander } from '../../motion/test/bodies';
import { paperFigure, paperTraits } from '../../motion/test/paper';
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

const svg = paperFigure(paperTraits(4, { facing: 'right', language: 'plain', depth: false, nested: false })).svg;
const { rig, map } = cutoutFromSvg(new TextEncoder().encode(svg));
const figure = { ...rigAnswer(), rig: rigToJson(rig), map: bodyMapToJson(map, asSkeleton(rig)) };
const body = posedRig(90);
const strip = makeStrip(body, party(body).map, wander(body, 30), [], 0);

/** Whether the figures of a strip are turned over, seen from one side of the body and from the other. */
const turned = (over: boolean | undefined): boolean[] =>
  [Math.PI / 2, -Math.PI / 2].map((view) => {
    asked.splice(0);
    stand(
      <MiniStrip
        strip={{ ...strip, view }}
        performer={figure}
        width={80}
        height={30}
        from={0}
        to={1}
        laps={1}
        over={over}
      />,
    );
    expect(asked.filter((a) => a.startsWith('translate'))).toEqual(['translate 20 0', 'translate 60 0']);
    const count = asked.filter((a) => a === 'scale -1 1').length;
    expect([0, 2]).toContain(count);
    return count === 2;
  });

test('a paper figure faces as it is drawn from whichever side the motion is seen, and the other way turned over', () => {
  const [one, other] = turned(false);
  expect(one).not.toBe(other);
  expect(turned(true)).toEqual([!one, !other]);
});

test('where nothing is said it faces as the motion does', () => {
  expect(turned(undefined)).toEqual([false, false]);
});
