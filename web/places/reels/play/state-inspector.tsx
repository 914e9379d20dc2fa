'use client';

import type { PlayState } from '@velvet-reel/motion';
import { Plus, Trash2 } from 'lucide-react';
import { useItem } from '@/client/queries';
import type { PlayContent } from '@/documents/play';
import { ItemPicker } from '@/parts/item-picker';
import { Button, IconButton } from '@/ui/button';
import { KeptInput, Row, Select, SwitchRow } from '@/ui/field';
import { NumberField } from '../number-field';
import { stateInspector as texts } from '../texts';
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
      <p className="text-[12px] text-muted">{texts.state}</p>
      <KeptInput
        aria-label={texts.nameOfTheState}
        value={state.name}
        onKeep={(name) => name.trim() && set({ name: name.trim() }, texts.renamed(state.name))}
      />
      {play.start === state.id ? (
        <p className="text-muted">{texts.thePlayThroughBegins}</p>
      ) : (
        <Button size="small" onClick={() => onChange({ ...play, start: state.id }, texts.itBeginsWith(state.name))}>
          {texts.beginHere}
        </Button>
      )}
      <SwitchRow
        label={texts.mixedByANumber}
        checked={content.kind === 'mix'}
        onChange={(on) => onChange(asMix(play, state.id, on), on ? texts.mixed(state.name) : texts.unmixed(state.name))}
      />
      {content.kind === 'item' ? (
        <>
          <p className="truncate">
            {texts.shows} {firstItem.data?.name ?? texts.anItemThatIs}
          </p>
          <ItemPicker
            label={texts.showAnotherItem}
            nothing={texts.noItemIsCalled}
            chosen={content.itemId}
            onPick={(item) => set({ content: { kind: 'item', itemId: item.id } }, texts.shows2(state.name, item.name))}
          />
        </>
      ) : (
        <>
          <Row name={texts.number}>
            <Select
              label={texts.numberThatMixes}
              className="w-full"
              value={content.input}
              options={numbers.map((n) => ({ value: n.id, label: n.name }))}
              onChange={(input) => set({ content: { ...content, input } }, texts.choseTheNumberOf(state.name))}
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
                  texts.setWhereACycle(state.name),
                )
              }
              onRemove={() =>
                set(
                  { content: { ...content, items: content.items.filter((_, k) => k !== i) } },
                  texts.tookACycleOut(state.name),
                )
              }
            />
          ))}
          <ItemPicker
            label={texts.addACycleTo}
            nothing={texts.noCycleIsCalled}
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
                texts.addedTo(item.name, state.name),
              );
            }}
          />
          {content.items.length < 2 && <p className="text-brass-text">{texts.aMixNeedsAt}</p>}
        </>
      )}
      <NumberField
        label={texts.speed}
        value={state.speed}
        low={0.25}
        high={4}
        step={0.05}
        onKeep={(speed) => set({ speed }, texts.setTheSpeedOf(state.name))}
      />
      {content.kind === 'item' && (
        <SwitchRow
          label={texts.goesRoundAndRound}
          checked={state.repeats}
          onChange={(repeats) => set({ repeats }, `${state.name} ${repeats ? texts.goesRound : texts.playsOnce}`)}
        />
      )}
      <p className="mt-1 text-[12px] text-muted">{texts.waysOutCheckedIn}</p>
      {ways.length === 0 && <p className="text-brass-text">{texts.noneWhoeverPlaysWould}</p>}
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
          label={texts.addAWayTo}
          className="w-full"
          value={' '}
          options={[{ value: ' ', label: texts.addAWayTo2 }, ...others.map((s) => ({ value: s.id, label: s.name }))]}
          onChange={(to) => {
            if (to === ' ') return;
            const made = withWay(play, state.id, to);
            onChange(made.content, texts.addedAWayFrom(state.name));
            onChoose({ way: made.id });
          }}
        />
      )}
      {mayChange && (
        <Button
          className="mt-2"
          onClick={() => {
            onChange(withoutState(play, state.id), texts.removed(state.name));
            onChoose(null);
          }}
        >
          <Trash2 size={13} /> {texts.removeTheState}
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
        <NumberField
          label={data?.name ?? texts.gone}
          value={value}
          low={-1e6}
          high={1e6}
          step={0.05}
          onKeep={onValue}
        />
      </span>
      <IconButton label={texts.takeOut(data?.name)} quiet onClick={onRemove}>
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
        <Plus size={14} /> {texts.addAState}
      </p>
      <ItemPicker label={texts.itemForANew} nothing={texts.noItemIsCalled} onPick={onPick} />
    </div>
  );
}
