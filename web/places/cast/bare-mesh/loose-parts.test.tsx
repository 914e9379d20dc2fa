import { expect, jest, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { useState } from 'react';
import { pick, stand } from '@/test/interface';
import { LooseParts } from './loose-parts';
import type { Ties } from './use-bare-mesh';

const parts = [
  { name: 'hat', triangles: 96, low: [-0.1, 0.9, -0.1], high: [0.1, 1, 0.1] },
  { name: '', triangles: 1, low: [0, 0.5, 0], high: [0.1, 0.6, 0] },
] as const;

function list() {
  const [pointed, told] = [jest.fn(), jest.fn()];
  function Kept() {
    const [ties, setTies] = useState<Ties>({});
    return (
      <LooseParts
        parts={parts.map((p) => ({ ...p, low: [...p.low], high: [...p.high] }))}
        ties={ties}
        onPoint={pointed}
        onTie={(part, joint) => {
          told(part, joint);
          setTies(joint === null ? {} : { [part]: joint });
        }}
      />
    );
  }
  return { ...stand(<Kept />), pointed, told };
}

test('a loose part is tied to a joint and let go, under its name or its number', async () => {
  const { user, told } = list();
  const head = screen.getByRole('button', { name: 'Loose parts · 2' });
  expect(head).toHaveAttribute('aria-expanded', 'false');
  await user.click(head);
  await pick(user, 'What moves hat', 'head');
  expect(told).toHaveBeenLastCalledWith(0, 'head');
  expect(screen.getByRole('button', { name: 'Loose parts · 2 · 1 tied' })).toBeInTheDocument();
  await pick(user, 'What moves hat', 'what it lies on');
  expect(told).toHaveBeenLastCalledWith(0, null);
  expect(screen.getByTitle('1 triangle')).toHaveTextContent('part 2');
});

test('the part that is pointed at, or focused, is told, so that it can be shown', async () => {
  const { user, pointed } = list();
  await user.click(screen.getByRole('button', { name: /Loose parts/ }));
  await user.hover(screen.getByText('part 2'));
  expect(pointed).toHaveBeenLastCalledWith(1);
  await user.unhover(screen.getByText('part 2'));
  expect(pointed).toHaveBeenLastCalledWith(null);
  await user.tab();
  expect(pointed).toHaveBeenLastCalledWith(0);
});

test('a mesh of one piece has no such list', () => {
  stand(<LooseParts parts={[]} ties={{}} onPoint={jest.fn()} onTie={jest.fn()} />);
  expect(screen.queryByText(/Loose parts/)).toBeNull();
});
