import { expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { stand } from '@/test/interface';
import { MarkTab } from './mark-tab';

test('joints are taken out and put back; the hips are always there', async () => {
  const [has, keep, leave] = [jest.fn(), jest.fn(), jest.fn()];
  const { user } = stand(
    <MarkTab
      marks={{ hips: [1, 1], upperArmL: [2, 2] }}
      lit={null}
      busy={false}
      onLit={() => undefined}
      onHas={has}
      onKeep={keep}
      onLeave={leave}
    />,
  );
  expect(screen.queryByRole('switch', { name: 'hips' })).toBeNull();
  const arm = screen.getByRole('switch', { name: 'upper arm L' });
  expect(arm.getAttribute('aria-checked')).toBe('true');
  await user.click(arm);
  await user.click(screen.getByRole('switch', { name: 'neck' }));
  expect(has.mock.calls).toEqual([
    ['upperArmL', false],
    ['neck1', true],
  ]);
  await user.click(screen.getByRole('button', { name: 'Put it together' }));
  await user.click(screen.getByRole('button', { name: 'Leave it as it was' }));
  expect([keep.mock.calls.length, leave.mock.calls.length]).toEqual([1, 1]);
});
