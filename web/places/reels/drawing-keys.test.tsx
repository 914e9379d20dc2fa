import { expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { type CutoutArt, type CutoutRig, ORDER_TRACK, type ReelMember } from '@velvet-reel/motion';
import { Clock } from '@/stage/clock';
import { stand } from '@/test/interface';
import { puppet, swing } from '../../../motion/test/puppet';
import { DrawingKeys } from './drawing-keys';
import { pictureOf, wordsOf } from './label-words';

const plain = puppet();
const hand = (drawings: string[]) => ({ ...plain.parts[4]!, name: 'hand', joint: 2, drawings });
const rig: CutoutRig = { ...plain, parts: [...plain.parts, hand(['open', 'shut'])] };
const member = (labels?: ReelMember['labels']): ReelMember => ({
  id: 'gull',
  castId: 'gull',
  order: 0,
  muted: false,
  base: [],
  overlays: [],
  keys: [],
  ...(labels && { labels }),
});

function panel(labels?: ReelMember['labels']) {
  const [onKey, onKeys] = [jest.fn(), jest.fn()];
  const clock = new Clock();
  clock.setPlaying(false);
  clock.frameCount = 60;
  const stood = stand(
    <DrawingKeys
      clock={clock}
      member={member(labels)}
      rig={rig}
      art={undefined}
      motion={swing(plain)}
      mayChange
      onKey={onKey}
      onKeys={onKeys}
    />,
  );
  return { ...stood, onKey, onKeys };
}

test('a drawing is set at the playhead by a press, and what shows now is told', async () => {
  const { user, onKey } = panel();
  expect(screen.getByRole('button', { name: 'open' })).toHaveAttribute('aria-pressed', 'true');
  await user.click(screen.getByRole('button', { name: 'shut' }));
  expect(onKey).toHaveBeenCalledWith('head', 0, 'shut', 'Set drawings of head to shut at frame 1');
  expect(screen.getByText('Nothing is set for it on this reel.')).toBeInTheDocument();
});

test('what was set shows before the motion is worked out anew, and can be let go', async () => {
  const { user, onKey } = panel([{ name: 'head', keys: [{ frame: 0, label: 'wide' }] }]);
  expect(screen.getByRole('button', { name: 'wide' })).toHaveAttribute('aria-pressed', 'true');
  await user.click(screen.getByRole('button', { name: 'As beneath from here on' }));
  expect(onKey).toHaveBeenCalledWith('head', 0, null, expect.any(String));
});

test('the same on another part goes by label; what that one lacks is told before anything is written', async () => {
  const { user, onKeys } = panel([
    {
      name: 'head',
      keys: [
        { frame: 0, label: 'shut' },
        { frame: 4, label: 'wide' },
        { frame: 8, label: null },
      ],
    },
  ]);
  await user.click(screen.getByRole('combobox', { name: 'The same on' }));
  await user.click(await screen.findByRole('option', { name: 'hand' }));
  expect(await screen.findByRole('alert')).toHaveTextContent('hand has no drawing “wide”');
  expect(onKeys).not.toHaveBeenCalled();
  await user.click(screen.getByRole('button', { name: 'Copy the rest' }));
  expect(onKeys).toHaveBeenCalledWith(
    'hand',
    [
      { frame: 0, label: 'shut' },
      { frame: 8, label: null },
    ],
    'Copied drawings of head to hand',
  );
});

test('a part goes a step nearer or farther; at the ends it goes no further', async () => {
  const { user, onKey } = panel();
  expect(screen.getByRole('button', { name: 'A step back' })).toBeDisabled();
  await user.click(screen.getByRole('button', { name: 'A step forward' }));
  expect(onKey).toHaveBeenCalledWith(ORDER_TRACK, 0, '1 0 2 3 4 5', 'trunk nearer at frame 1');
});

test('labels have pictures and words: a part its drawing, an order what stands nearer than drawn', () => {
  const drawing = (part: string, label: string) => ({
    part,
    label,
    svg: `<g id="${part}-${label}"/>`,
    box: [0, 0, 1, 1],
  });
  const art = { defs: '', drawings: [drawing('head', 'open'), drawing('head', 'shut')] } as unknown as CutoutArt;
  expect(decodeURIComponent(pictureOf(rig, art, 'head', 'shut')!)).toContain('head-shut');
  expect(pictureOf(rig, art, 'head', 'wide')).toBeUndefined();
  expect(pictureOf(rig, art, ORDER_TRACK, '0 1')).toBeUndefined();
  expect(wordsOf(ORDER_TRACK, '1 0 2 3 4 5', rig)).toBe('trunk nearer');
  expect(wordsOf(ORDER_TRACK, '0 1 2 3 4 5', rig)).toBe('as drawn');
  expect(wordsOf('head', 'shut', rig)).toBe('shut');
});
