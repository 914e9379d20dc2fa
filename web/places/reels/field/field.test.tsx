import { jest } from '@jest/globals';
import { screen } from '@testing-library/react';
import { stand } from '@/test/interface';
import { FieldPlane } from './field-plane';

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
