import { expect, test } from '@jest/globals';
import { fireEvent, screen } from '@testing-library/react';
import { stand } from '@/test/interface';
import { Clock } from './clock';
import { Transport } from './transport';

function playing(frames = 100, fps = 25): Clock {
  const clock = new Clock();
  clock.load(frames, fps);
  clock.seekFrame(10);
  return clock;
}
const bar = () => screen.getByRole<HTMLInputElement>('slider', { name: 'Frame' });

test('a place that is pointed at while it plays is where time stands then', () => {
  const clock = playing();
  stand(<Transport clock={clock} />);
  expect(bar().value).toBe('10');
  fireEvent.input(bar(), { target: { value: '40' } });
  expect([clock.playing, clock.frame]).toEqual([false, 40]);
  expect(bar().value).toBe('40');
  expect(screen.getByText('41 / 100')).toBeInTheDocument();
});

test('the bar follows the time and reaches the last frame of a motion that is longer', () => {
  const clock = playing();
  stand(<Transport clock={clock} />);
  clock.load(400, 25);
  clock.seekFrame(350);
  expect([bar().max, bar().value]).toEqual(['399', '350']);
});

test('play, single frames and the pace are at hand, and nothing is without a motion', async () => {
  const clock = playing();
  const { user } = stand(<Transport clock={clock} />);
  await user.click(screen.getByRole('button', { name: 'Pause' }));
  await user.click(screen.getByRole('button', { name: 'One frame forward' }));
  await user.click(screen.getByRole('button', { name: 'One frame forward' }));
  await user.click(screen.getByRole('button', { name: 'One frame back' }));
  expect(clock.frame).toBe(11);
  await user.click(screen.getByRole('button', { name: /^Speed 1;/ }));
  expect(clock.speed).toBe(2);
  await user.click(screen.getByRole('button', { name: /^Speed 2;/ }));
  expect(clock.speed).toBe(0.25);
  await user.click(screen.getByRole('button', { name: 'Looping' }));
  expect(clock.loop).toBe(false);
  stand(<Transport clock={new Clock()} disabled />);
  expect(screen.getAllByRole('slider', { name: 'Frame' }).at(-1)).toBeDisabled();
});
