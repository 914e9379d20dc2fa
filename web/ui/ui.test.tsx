import { expect, jest, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { useState } from 'react';
import { HipsSlider } from '../parts/hips-slider';
import { stand } from '../test/interface';
import { Button, IconButton } from './button';
import { RemovableChip } from './chip';
import { Dialog } from './dialog';
import { KeptInput, Select, SwitchRow } from './field';
import { Slider } from './slider';

function Kept({ onKeep }: { onKeep: (value: string) => void }) {
  return <KeptInput aria-label="Name" value="Deck walk" onKeep={onKeep} />;
}

test('text is kept on Enter, trimmed, once', async () => {
  const keep = jest.fn();
  const { user } = stand(<Kept onKeep={keep} />);
  const field = screen.getByLabelText('Name');
  await user.clear(field);
  await user.type(field, '  Rail climb {Enter}');
  expect(keep.mock.calls).toEqual([['Rail climb']]);
});

test('text is given up on Escape', async () => {
  const keep = jest.fn();
  const { user } = stand(<Kept onKeep={keep} />);
  const field = screen.getByLabelText<HTMLInputElement>('Name');
  await user.type(field, ' never{Escape}');
  await waitFor(() => expect(field).not.toHaveFocus());
  expect(field.value).toBe('Deck walk');
  expect(keep).not.toHaveBeenCalled();
});

test('text that was not changed is not written', async () => {
  const keep = jest.fn();
  const { user } = stand(<Kept onKeep={keep} />);
  await user.click(screen.getByLabelText('Name'));
  await user.tab();
  expect(keep).not.toHaveBeenCalled();
});

test('a value that changes elsewhere replaces what stands in the field', () => {
  function Outer() {
    const [name, setName] = useState('One');
    return (
      <>
        <KeptInput aria-label="Name" value={name} onKeep={() => undefined} />
        <button type="button" onClick={() => setName('Two')}>
          colleague
        </button>
      </>
    );
  }
  const { user } = stand(<Outer />);
  return user
    .click(screen.getByText('colleague'))
    .then(() => expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('Two'));
});

test('a switch is worked by its words, by key, and says how it stands', async () => {
  function Outer() {
    const [on, setOn] = useState(false);
    return <SwitchRow label="Hold planted soles" checked={on} onChange={setOn} />;
  }
  const { user } = stand(<Outer />);
  const toggle = screen.getByRole('switch', { name: 'Hold planted soles' });
  expect(toggle).toHaveAttribute('aria-checked', 'false');
  await user.click(screen.getByText('Hold planted soles'));
  expect(toggle).toHaveAttribute('aria-checked', 'true');
  toggle.focus();
  await user.keyboard(' ');
  expect(toggle).toHaveAttribute('aria-checked', 'false');
});

test('a list is opened and chosen from by key', async () => {
  const choose = jest.fn();
  const { user } = stand(
    <Select
      label="Format"
      value="bvh"
      options={[
        { value: 'bvh', label: 'BVH' },
        { value: 'glb', label: 'GLB' },
        { value: 'csv', label: 'CSV' },
      ]}
      onChange={choose}
    />,
  );
  const box = screen.getByRole('combobox', { name: 'Format' });
  expect(box).toHaveTextContent('BVH');
  box.focus();
  await user.keyboard('{Enter}');
  expect((await screen.findAllByRole('option')).map((o) => o.textContent)).toEqual(['BVH', 'GLB', 'CSV']);
  await waitFor(() => expect(screen.getByRole('option', { name: 'BVH' })).toHaveFocus());
  await user.keyboard('{ArrowDown}');
  await waitFor(() => expect(screen.getByRole('option', { name: 'GLB' })).toHaveFocus());
  await user.keyboard('{Enter}');
  await waitFor(() => expect(choose).toHaveBeenCalledWith('glb'));
});

test('an amount shows its number, moves by key, and goes back to rest only when it was changed', async () => {
  function Outer() {
    const [x, setX] = useState(1);
    return <Slider label="Energy" value={x} rest={1} low={0} high={2} step={0.05} unit=" ×" onChange={setX} />;
  }
  const { user } = stand(<Outer />);
  expect(screen.queryByRole('button', { name: 'Reset energy' })).toBeNull();
  screen.getByRole('slider', { name: 'Energy' }).focus();
  await user.keyboard('{ArrowRight}{ArrowRight}');
  expect(screen.getByText('1.10 ×')).toBeInTheDocument();
  await user.click(screen.getByRole('button', { name: 'Reset energy' }));
  expect(screen.getByText('1.00 ×')).toBeInTheDocument();
  expect(screen.queryByRole('button', { name: 'Reset energy' })).toBeNull();
});

test('hips are told in per cent of the leg and kept as a share', async () => {
  const set = jest.fn();
  const { user } = stand(<HipsSlider value={0.02} onChange={set} />);
  expect(screen.getByText('2.0 %')).toBeInTheDocument();
  screen.getByRole('slider', { name: 'Hips lower' }).focus();
  await user.keyboard('{ArrowRight}');
  expect(set.mock.calls[0]![0]).toBeCloseTo(0.025, 9);
});

test('a dialog takes the focus, closes on Escape, and gives the focus back', async () => {
  function Outer() {
    const [open, setOpen] = useState(false);
    return (
      <>
        <button type="button" onClick={() => setOpen(true)}>
          ask
        </button>
        <Dialog open={open} onOpenChange={setOpen} title="Really?" about="It goes.">
          <button type="button">yes</button>
        </Dialog>
      </>
    );
  }
  const { user } = stand(<Outer />);
  await user.click(screen.getByText('ask'));
  const dialog = await screen.findByRole('dialog', { name: 'Really?' });
  expect(within(dialog).getByText('It goes.')).toBeInTheDocument();
  await waitFor(() => expect(dialog).toContainElement(document.activeElement as HTMLElement));
  await user.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  await waitFor(() => expect(screen.getByText('ask')).toHaveFocus());
});

test('a button is no form’s sender unless it says so', async () => {
  const sent = jest.fn();
  const { user } = stand(
    <form
      onSubmit={(e) => {
        e.preventDefault();
        sent();
      }}
    >
      <Button>Beside</Button>
      <Button type="submit">Send</Button>
    </form>,
  );
  await user.click(screen.getByText('Beside'));
  expect(sent).not.toHaveBeenCalled();
  await user.click(screen.getByText('Send'));
  expect(sent).toHaveBeenCalledTimes(1);
});

test('a button without words has a name, tells its key when it has the focus, and stands still when it cannot be used', async () => {
  const press = jest.fn();
  const { user } = stand(
    <>
      <IconButton label="One frame forward" keys="." onClick={press}>
        <i />
      </IconButton>
      <IconButton label="Undo" onClick={press} disabled>
        <i />
      </IconButton>
      <IconButton label="Round and round" onClick={press} pressed>
        <i />
      </IconButton>
    </>,
  );
  await user.tab();
  expect(await screen.findByRole('tooltip')).toHaveTextContent('One frame forward.');
  await user.keyboard('{Enter}');
  expect(press).toHaveBeenCalledTimes(1);
  await user.click(screen.getByRole('button', { name: 'Undo' }));
  expect(press).toHaveBeenCalledTimes(1);
  expect(screen.getByRole('button', { name: 'Round and round' })).toHaveAttribute('aria-pressed', 'true');
});

test('a narrowing is taken off by its name', async () => {
  const off = jest.fn();
  const { user } = stand(<RemovableChip label="kind: cycle" onRemove={off} />);
  await user.click(screen.getByRole('button', { name: 'Remove kind: cycle' }));
  expect(off).toHaveBeenCalledTimes(1);
});

test('a long list of choices is drawn when it is opened, and says what is chosen before', async () => {
  const change = jest.fn();
  const drawn = new Set<number>();
  const options = Array.from({ length: 40 }, (_, i) => ({
    value: `v${i}`,
    get label() {
      drawn.add(i);
      return `Choice ${i}`;
    },
  }));
  const { user } = stand(<Select label="Long" value="v3" options={options} onChange={change} />);
  const box = screen.getByRole('combobox', { name: 'Long' });
  expect(box).toHaveTextContent('Choice 3');
  expect([...drawn]).toEqual([3]);
  await user.click(box);
  await user.click(await screen.findByRole('option', { name: 'Choice 7' }));
  expect(change.mock.calls).toEqual([['v7']]);
  await waitFor(() => expect(screen.queryAllByRole('option')).toEqual([]));
});

test('of a short one letters choose while it is closed', async () => {
  const change = jest.fn();
  const options = ['none', 'path', 'speed'].map((value) => ({ value, label: value }));
  const { user } = stand(<Select label="Short" value="none" options={options} onChange={change} />);
  screen.getByRole('combobox', { name: 'Short' }).focus();
  await user.keyboard('s');
  expect(change.mock.calls).toEqual([['speed']]);
});
