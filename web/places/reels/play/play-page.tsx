'use client';

import { lookOver } from '@velvet-reel/motion';
import { Download, Pause, Play, Users, X } from 'lucide-react';
import { useCallback, useMemo, useState } from 'react';
import { toast } from 'sonner';
import { API } from '@/client/api';
import { useKeys } from '@/client/keys';
import { useCast, useCastRig } from '@/client/queries';
import { saveFile } from '@/client/save-file';
import { useMay } from '@/client/session';
import type { PlayDocument } from '@/contract';
import { PLAY, type PlayContent } from '@/documents/play';
import { type DocumentSource, useDocument } from '@/documents/use-document';
import { OthersHere } from '@/parts/others-here';
import { SavingState } from '@/parts/saving-state';
import { Clock } from '@/stage/clock';
import { SoloStage } from '@/stage/solo-stage';
import { Button, IconButton } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { KeptInput, Select } from '@/ui/field';
import { playPage as texts } from '../texts';
import { CarryDialog } from './carry-dialog';
import { InputsList } from './inputs-list';
import { type Chosen, PlayBoard } from './play-board';
import { changeState, keyName, withState, withWay } from './play-edits';
import { AddState, StateInspector } from './state-inspector';
import { useInputs } from './use-inputs';
import { usePlaying } from './use-playing';
import { WayInspector } from './way-inspector';

const read = (answer: unknown) => {
  const { content, version } = answer as PlayDocument;
  return { content, version };
};

/** A play-through: states on a board, ways between them, and the performer that plays them by keys. */
export function PlayPage({ id, onClose }: { id: string; onClose: () => void }) {
  const mayChange = useMay('animator');
  const source = useMemo<DocumentSource<PlayContent>>(
    () => ({ address: `${API}/plays/${id}`, kind: PLAY, read, mayChange }),
    [id, mayChange],
  );
  const document = useDocument(source, PLAY.empty);
  const { content: play, change } = document;
  const cast = useCast();
  const member = cast.data?.find((c) => c.id === play.castId);
  const { data: rig } = useCastRig(play.castId);
  const [clock] = useState(() => new Clock());
  const [playing, setPlaying] = useState(false);
  const [chosen, setChosen] = useState<Chosen>(null);
  const [carrying, setCarrying] = useState(false);
  const faults = useMemo(() => lookOver(play), [play]);
  const stops = faults.find((f) => f.code === 'no-start' || f.code === 'empty' || f.code === 'lost');
  const inputs = useInputs(play.inputs, playing);
  const now = usePlaying(play, rig, playing && !stops, inputs, clock);
  const toggle = (): void => {
    if (play.states.length === 0) return;
    setPlaying(!playing);
  };
  useKeys('space', toggle);
  useKeys('esc', () => (playing ? setPlaying(false) : setChosen(null)));
  const edit = useCallback(
    (content: PlayContent, label: string, gesture?: string) => change(content, label, gesture),
    [change],
  );
  const save = async (): Promise<void> => {
    try {
      toast(texts.isSaved(await saveFile(await fetch(`${API}/plays/${id}/export`), `${play.name}.zip`)));
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  if (!document.loaded)
    return document.trouble ? (
      <Empty title={texts.thePlayThroughCould} action={<Button onClick={onClose}>{texts.allReels}</Button>}>
        {document.trouble}
      </Empty>
    ) : (
      <Empty title={texts.opening} />
    );
  const state = chosen && 'state' in chosen ? play.states.find((s) => s.id === chosen.state) : undefined;
  const way = chosen && 'way' in chosen ? play.ways.find((w) => w.id === chosen.way) : undefined;
  const hints = play.inputs.filter((i) => i.key).slice(0, 5);
  return (
    <section aria-label={texts.playThrough} className="flex h-full min-h-0">
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="relative min-h-0 flex-[5]">
          {member && rig ? (
            <SoloStage
              clock={clock}
              member={member}
              rig={rig}
              motion={undefined}
              live={now.shown && now.show}
              label={texts.inIt(member.name, play.name)}
            />
          ) : (
            <p className="stage-back flex h-full items-center justify-center text-muted">
              {play.castId ? texts.theCharacterOfThis : texts.chooseACharacter}
            </p>
          )}
          <div className="absolute top-2.5 left-3.5 flex items-center gap-2">
            <KeptInput
              aria-label={texts.nameOfThePlay}
              className="heading w-64 text-ellipsis border-transparent! bg-transparent! px-1! py-0! text-[17px] hover:border-line!"
              value={play.name}
              readOnly={!mayChange}
              onKeep={(name) => name && edit({ ...play, name }, texts.renamedThePlayThrough)}
            />
            <SavingState document={document} mayChange={mayChange} onlyLooking={texts.youCanPlayHere} />
            <OthersHere subjectId={id} />
          </div>
          <div className="absolute inset-x-3.5 bottom-3 flex items-center gap-3">
            <Button
              look={playing ? 'plain' : 'brass'}
              keys="Space"
              onClick={toggle}
              disabled={play.states.length === 0}
            >
              {playing ? <Pause size={14} /> : <Play size={14} />} {playing ? texts.stop : texts.play}
            </Button>
            {playing && !now.shown && !now.trouble && !stops && (
              <span role="status" className="text-muted">
                {texts.makingItReady} {Math.round(100 * now.share)} %
              </span>
            )}
            {playing && now.shown && (
              <span role="status" className="rounded-full border border-line bg-panel/90 px-3 py-1">
                {play.states.find((s) => s.id === now.shown?.state)?.name ?? ''}
                {hints.map((i) => (
                  <span key={i.id} className="ml-3 text-muted">
                    <kbd>{i.kind === 'number' ? `${keyName(i.key)} ${keyName(i.lessKey)}`.trim() : keyName(i.key)}</kbd>{' '}
                    {i.name}
                  </span>
                ))}
              </span>
            )}
            {playing && (now.trouble ?? stops?.words) && (
              <span role="alert" className="rounded border border-raspberry bg-panel px-3 py-1 text-raspberry">
                {now.trouble ?? stops?.words}
              </span>
            )}
          </div>
        </div>
        <div className="min-h-0 flex-[4] border-line border-t">
          {play.states.length === 0 ? (
            <Empty title={texts.noStatesYet}>{texts.addItemsAtThe}</Empty>
          ) : (
            <PlayBoard
              play={play}
              chosen={chosen}
              now={now.shown && { state: now.shown.state, way: now.shown.way, share: now.shown.share }}
              faulty={new Set(faults.map((f) => f.about))}
              mayChange={mayChange}
              onChoose={setChosen}
              onMove={(s, at, gesture) => edit(changeState(play, s, { at }), texts.movedAState, gesture)}
              onWay={(from, to) => {
                const made = withWay(play, from, to);
                edit(made.content, texts.addedAWay);
                setChosen({ way: made.id });
              }}
            />
          )}
        </div>
      </div>
      <aside className="flex w-[320px] shrink-0 flex-col gap-4 overflow-y-auto border-line border-l p-4">
        <div className="flex items-center gap-1.5">
          <Select
            label={texts.characterThatPlays}
            className="min-w-0 flex-1"
            value={play.castId ?? ' '}
            options={[
              ...(member ? [] : [{ value: play.castId ?? ' ', label: texts.chooseACharacter2 }]),
              ...(cast.data ?? []).map((c) => ({ value: c.id, label: c.name })),
            ]}
            onChange={(castId) => castId !== ' ' && edit({ ...play, castId }, texts.choseTheCharacter)}
          />
          {mayChange && (
            <IconButton label={texts.carryItToAnother} onClick={() => setCarrying(true)}>
              <Users size={15} />
            </IconButton>
          )}
          <IconButton label={texts.exportAsJsonScxml} onClick={() => void save()}>
            <Download size={15} />
          </IconButton>
          <IconButton label={texts.allReelsAndPlay} onClick={onClose}>
            <X size={15} />
          </IconButton>
        </div>
        {state && (
          <StateInspector
            key={state.id}
            play={play}
            state={state}
            mayChange={mayChange}
            onChange={edit}
            onChoose={setChosen}
          />
        )}
        {way && (
          <WayInspector key={way.id} play={play} way={way} mayChange={mayChange} onChange={edit} onChoose={setChosen} />
        )}
        {mayChange && !state && !way && (
          <AddState
            onPick={(item) => {
              const made = withState(play, item);
              edit(made.content, texts.added(item.name));
              setChosen({ state: made.id });
            }}
          />
        )}
        <InputsList play={play} pressed={now.pressed} mayChange={mayChange} onChange={edit} />
        {faults.length > 0 && play.states.length > 0 && (
          <section aria-label={texts.whatIsMissing} className="flex flex-col gap-1">
            <h2 className="font-semibold">{texts.whatIsMissing}</h2>
            {faults.map((f) => (
              <button
                key={`${f.code} ${f.about} ${f.words}`}
                type="button"
                className="text-left text-brass-text hover:underline"
                onClick={() =>
                  setChosen(
                    play.states.some((s) => s.id === f.about)
                      ? { state: f.about }
                      : play.ways.some((w) => w.id === f.about)
                        ? { way: f.about }
                        : null,
                  )
                }
              >
                {f.words}
              </button>
            ))}
          </section>
        )}
      </aside>
      {carrying && <CarryDialog id={id} play={play} onClose={() => setCarrying(false)} />}
    </section>
  );
}
