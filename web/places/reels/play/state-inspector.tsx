'use client';

import type { PlayState } from '@velvet-reel/motion';
import { Plus, Trash2 } from 'lucide-react';
import { useItem } from '@/client/queries';
import type { PlayContent } from '@/documents/play';
import { ItemPicker } from '@/parts/item-picker';
import { Button, IconButton } from '@/ui/button';
import { KeptInput, Row, Select, SwitchRow } from '@/ui/field';
import { NumberField } from '../number-field';
import type { Chosen } from './play-board';
import { asMix, changeState, whenWords, withoutState, withWay } from './play-edits';

interface StateInspectorProps {
  play: PlayContent;
  state: PlayState;
  mayChange: boolean;
  onChange: (play: PlayContent, label: string) => void;
  onChoose: (chosen: Chosen) => void;
}

/** What a state shows, how it plays, and where it leads. */
export function StateInspector({ play, state, mayChange, onChange, onChoose }: StateInspectorProps) {
  const set = (change: Partial<PlayState>, label: string): void => onChange(changeState(play, state.id, change), label);
  const { content } = state;
  const numbers = play.inputs.filter((i) => i.kind === 'number');
  const others = play.states.filter((s) => s.id !== state.id);
  const ways = play.ways.filter((w) => w.from === state.id || (w.from === null && w.to !== state.id));
  const firstItem = useItem(content.kind === 'item' ? content.itemId : null);
  return (
    <fieldset disabled={!mayChange} className="flex min-w-0 flex-col gap-2">
      <p className="text-[12px] text-muted">State</p>
      <KeptInput
        aria-label="Name of the state"
        value={state.name}
        onKeep={(name) => name.trim() && set({ name: name.trim() }, `Renamed ${state.name}`)}
      />
      {play.start === state.id ? (
        <p className="text-muted">The play-through begins here.</p>
      ) : (
        <Button size="small" onClick={() => onChange({ ...play, start: state.id }, `It begins with ${state.name}`)}>
          Begin here
        </Button>
      )}
      <SwitchRow
        label="Mixed by a number"
        checked={content.kind === 'mix'}
        onChange={(on) => onChange(asMix(play, state.id, on), on ? `Mixed ${state.name}` : `Unmixed ${state.name}`)}
      />
      {content.kind === 'item' ? (
        <>
          <p className="truncate">Shows {firstItem.data?.name ?? 'an item that is gone'}</p>
          <ItemPicker
            label="Show another item"
            nothing="No item is called that."
            chosen={content.itemId}
            onPick={(item) => set({ content: { kind: 'item', itemId: item.id } }, `${state.name} shows ${item.name}`)}
          />
        </>
      ) : (
        <>
          <Row name="Number">
            <Select
              label="Number that mixes"
              className="w-full"
              value={content.input}
              options={numbers.map((n) => ({ value: n.id, label: n.name }))}
              onChange={(input) => set({ content: { ...content, input } }, `Chose the number of ${state.name}`)}
            />
          </Row>
          {content.items.map((c, i) => (
            <MixRow
              key={`${c.itemId} ${c.value}`}
              itemId={c.itemId}
              value={c.value}
              onValue={(value) =>
                set(
                  {
                    content: {
                      ...content,
                      items: content.items
                        .map((x, k) => (k === i ? { ...x, value } : x))
                        .sort((a, b) => a.value - b.value),
                    },
                  },
                  `Set where a cycle of ${state.name} plays alone`,
                )
              }
              onRemove={() =>
                set(
                  { content: { ...content, items: content.items.filter((_, k) => k !== i) } },
                  `Took a cycle out of ${state.name}`,
                )
              }
            />
          ))}
          <ItemPicker
            label="Add a cycle to mix"
            nothing="No cycle is called that."
            fits={(item) => item.kind === 'cycle'}
            onPick={(item) => {
              const input = play.inputs.find((i) => i.id === content.input);
              const value = content.items.length === 0 ? (input?.min ?? 0) : (input?.max ?? 1);
              set(
                {
                  content: {
                    ...content,
                    items: [...content.items, { value, itemId: item.id }].sort((a, b) => a.value - b.value),
                  },
                },
                `Added ${item.name} to ${state.name}`,
              );
            }}
          />
          {content.items.length < 2 && <p className="text-brass-text">A mix needs at least two cycles.</p>}
        </>
      )}
      <NumberField
        label="Speed"
        value={state.speed}
        low={0.25}
        high={4}
        step={0.05}
        onKeep={(speed) => set({ speed }, `Set the speed of ${state.name}`)}
      />
      {content.kind === 'item' && (
        <SwitchRow
          label="Goes round and round"
          checked={state.repeats}
          onChange={(repeats) => set({ repeats }, `${state.name} ${repeats ? 'goes round' : 'plays once'}`)}
        />
      )}
      <p className="mt-1 text-[12px] text-muted">Ways out, checked in this order</p>
      {ways.length === 0 && <p className="text-brass-text">None: whoever plays would be stuck here.</p>}
      {ways.map((w) => (
        <button
          key={w.id}
          type="button"
          className="flex gap-2 rounded border border-line px-2 py-1 text-left hover:border-muted"
          onClick={() => onChoose({ way: w.id })}
        >
          <span className="font-medium">{play.states.find((s) => s.id === w.to)?.name ?? '?'}</span>
          <span className="truncate text-muted">{whenWords(w, play.inputs)}</span>
        </button>
      ))}
      {mayChange && others.length > 0 && (
        <Select
          label="Add a way to"
          className="w-full"
          value={' '}
          options={[{ value: ' ', label: 'Add a way to …' }, ...others.map((s) => ({ value: s.id, label: s.name }))]}
          onChange={(to) => {
            if (to === ' ') return;
            const made = withWay(play, state.id, to);
            onChange(made.content, `Added a way from ${state.name}`);
            onChoose({ way: made.id });
          }}
        />
      )}
      {mayChange && (
        <Button
          className="mt-2"
          onClick={() => {
            onChange(withoutState(play, state.id), `Removed ${state.name}`);
            onChoose(null);
          }}
        >
          <Trash2 size={13} /> Remove the state
        </Button>
      )}
    </fieldset>
  );
}

function MixRow({
  itemId,
  value,
  onValue,
  onRemove,
}: {
  itemId: string;
  value: number;
  onValue: (value: number) => void;
  onRemove: () => void;
}) {
  const { data } = useItem(itemId);
  return (
    <div className="flex items-center gap-1.5">
      <span className="min-w-0 flex-1">
        <NumberField label={data?.name ?? 'gone'} value={value} low={-1e6} high={1e6} step={0.05} onKeep={onValue} />
      </span>
      <IconButton label={`Take ${data?.name ?? 'it'} out`} quiet onClick={onRemove}>
        <Trash2 size={13} />
      </IconButton>
    </div>
  );
}

/** An item that becomes a state. */
export function AddState({ onPick }: { onPick: (item: { id: string; name: string; kind: string }) => void }) {
  return (
    <div className="flex flex-col gap-1.5">
      <p className="flex items-center gap-1.5 font-semibold">
        <Plus size={14} /> Add a state
      </p>
      <ItemPicker label="Item for a new state" nothing="No item is called that." onPick={onPick} />
    </div>
  );
}
