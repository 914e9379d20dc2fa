import { type TroubleFact, told } from './trouble';

const fact = (more: Partial<TroubleFact>): TroubleFact => ({
  kind: 'slip',
  frame: 7,
  joint: 'LeftFoot',
  parts: [],
  amount: 0,
  unit: 'cm',
  ...more,
});

describe('troubles in words', () => {
  test.each<[Partial<TroubleFact>, string]>([
    [{ kind: 'slip', parts: ['heelL'], amount: 3.04 }, 'left heel slides 3.0 cm while it should stand'],
    [{ kind: 'slip', parts: ['seat'], amount: 1 }, 'the seat slides 1.0 cm while it should rest'],
    [{ kind: 'reach', parts: ['handL', 'handR'], amount: 2.2 }, 'an arm is 2.2 cm too short for its goal'],
    [{ kind: 'reach', parts: ['footL', 'footR'], amount: 2.2 }, 'a leg is 2.2 cm too short for its plant'],
    [
      { kind: 'body', parts: ['hips', 'chest'], amount: 24.6, unit: '%' },
      'hips and chest come apart, by 25 % of what lies between them at rest',
    ],
    [{ kind: 'body', parts: ['trunk'], amount: 31.2, unit: '°' }, "the trunk lies 31° away from the source's"],
    [{ kind: 'unpaired', names: ['Tail'] }, 'Tail moves in the source and has no partner'],
    [
      { kind: 'still', names: ['a', 'b', 'c', 'd'] },
      'a, b and 2 more joints are mapped, but the source holds no motion there',
    ],
  ])('%j', (more, text) => {
    expect(told(fact(more)).text).toBe(text);
  });

  test('the sentence is all that is added', () => {
    const slip = fact({ parts: ['ballR'], amount: 1.5 });
    expect(told(slip)).toEqual({ ...slip, text: 'right ball slides 1.5 cm while it should stand' });
  });
});
