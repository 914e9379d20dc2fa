import { jest } from '@jest/globals';
import { screen } from '@testing-library/react';
import {
  asSkeleton,
  type BodyMap,
  bodyMapToJson,
  cutoutFromSvg,
  guessBodyMap,
  motionFromJson,
  type Rig,
  restMotion,
  rigToJson,
  sceneFromJson,
  standIn,
} from '@velvet-reel/motion';
import type { RigAnswer } from '@/contract';
import { stand } from '@/test/interface';
import { paperFigure, paperTraits } from '../../../../motion/test/paper';
import { FieldPlane } from './field-plane';
import { fileOf } from './use-field';

const pins = [
  { itemId: 'a', name: 'Lantern low', at: [0.2, 0.3] as const },
  { itemId: 'b', name: 'Lantern up', at: [0.8, 0.3] as const },
  { itemId: 'c', name: 'Lantern hung', at: [0.5, 0.9] as const },
];

test('the arrow keys move the mix, and stop at the edge of the field', async () => {
  const onPoint = jest.fn();
  const { user } = stand(
    <FieldPlane
      pins={pins}
      weights={[1, 0, 0]}
      at={[0.5, 0.99]}
      recording={false}
      onPoint={onPoint}
      onPin={jest.fn()}
    />,
  );
  screen.getByRole('application').focus();
  await user.keyboard('{ArrowLeft}{ArrowDown}');
  expect(onPoint.mock.calls).toEqual([[[0.48, 0.99]], [[0.5, 1]]]);
});

test('a pose’s pin is as large as its weight, and named', () => {
  stand(
    <FieldPlane
      pins={pins}
      weights={[0.7, 0.2, 0.1]}
      at={[0.3, 0.3]}
      recording={false}
      onPoint={jest.fn()}
      onPin={jest.fn()}
    />,
  );
  const radius = (name: string): number =>
    Number([...document.querySelectorAll('circle')].find((c) => c.textContent === name)!.getAttribute('r'));
  expect(radius('Lantern low')).toBeGreaterThan(radius('Lantern up'));
  expect(radius('Lantern up')).toBeGreaterThan(radius('Lantern hung'));
  expect(screen.getAllByText('Lantern low').length).toBeGreaterThan(0);
});

test('a mix of paper is kept with its drawings, of a skeleton with its joints', async () => {
  const svg = paperFigure(paperTraits(4, { facing: 'front', language: 'plain', depth: false, nested: false })).svg;
  const figure = cutoutFromSvg(new TextEncoder().encode(svg));
  const answer = (rig: Rig, map: BodyMap) =>
    ({ id: 'r', rig: rigToJson(rig), map: bodyMapToJson(map, asSkeleton(rig)), heightM: 1.7 }) as unknown as RigAnswer;
  const pose = { ...restMotion(asSkeleton(figure.rig)), fps: 30 };
  const kept = fileOf(answer(figure.rig, figure.map), figure.art, pose, 'Between');
  const { name, figure: back, motion } = sceneFromJson(JSON.parse(JSON.stringify(kept)));
  expect([name, back.rig.parts.length, motion.frameCount]).toEqual(['Between', figure.rig.parts.length, 1]);
  expect(back.art.drawings).toHaveLength(figure.art.drawings.length);
  const rig = standIn('A');
  const own = fileOf(answer(rig, guessBodyMap(rig)), undefined, restMotion(rig), 'Standing');
  expect(motionFromJson(own).clips.map((c) => c.name)).toEqual(['Standing']);
});
