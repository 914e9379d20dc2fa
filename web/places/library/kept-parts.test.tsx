import { expect, jest, test } from '@jest/globals';
import { fireEvent, screen } from '@testing-library/react';
import { stand } from '@/test/interface';
import { rigAnswer } from '@/test/rigs';
import { item } from '@/test/things';
import { NO_CHANGE } from '@/wishes/wishes';
import { KeptParts } from './kept-parts';

const kept = (joints: string[], sets: { name: string; joints: string[] }[] = []) => {
  const keep = jest.fn();
  const shown = stand(
    <KeptParts item={item()} source={rigAnswer({ sets })} wish={{ ...NO_CHANGE, joints }} onKeep={keep} />,
  );
  return { keep, ...shown };
};

test('single joints are kept one by one, or as a set; joints of a set that are not here are left aside', async () => {
  const { user, keep } = kept(['Head'], [{ name: 'hands', joints: ['LeftHand', 'RightHand', 'Hook'] }]);
  expect(screen.getByText('and a single joint')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: '+ hands' }));
  expect(keep).toHaveBeenLastCalledWith({ joints: ['Head', 'LeftHand', 'RightHand'] });
  const list = screen.getByRole('listbox', { name: 'Single joints that are kept' });
  await user.selectOptions(list, 'LeftArm');
  expect((keep.mock.calls.at(-1)![0] as { joints: string[] }).joints.sort()).toEqual(['Head', 'LeftArm']);
  fireEvent.click(screen.getByRole('button', { name: 'none' }));
  expect(keep).toHaveBeenLastCalledWith({ joints: [] });
});

test('with none chosen the list is folded away', () => {
  kept([]);
  expect(screen.getByText('Single joints')).toBeInTheDocument();
  expect(screen.getByText('Single joints').closest('details')).not.toHaveAttribute('open');
  expect(screen.queryByRole('button', { name: 'none' })).toBeNull();
});
