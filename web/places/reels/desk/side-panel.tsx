'use client';

import { Select } from '@/ui/field';
import { TabList, TabPanel, Tabs } from '@/ui/tabs';
import { CameraFields } from '../cameras';
import { DrawingKeys } from '../drawing-keys';
import { FaceKeys } from '../face-keys';
import { HandPanel } from '../hand-panel';
import { JoinInspector } from '../join-inspector';
import { LibraryDrawer } from '../library-drawer';
import { MemberInspector } from '../member-inspector';
import { OverlayInspector } from '../overlay-inspector';
import { PoseTrial } from '../pose-trial';
import { RecordPanel } from '../record/record-panel';
import {
  changeKeys,
  changeOverlay,
  changePlacement,
  longEnough,
  removeMember,
  sameOn,
  setLabelKey,
  setLabelKeys,
  setLevelKey,
  withMember,
} from '../reel-edits';
import { ReelFields } from '../reel-fields';
import { newerThan } from '../reel-lanes';
import { PlacementInspector } from '../stretch-inspector';
import { reelDesk as texts } from '../texts';
import type { Desk } from './use-desk';

/** The library within reach, what is chosen, posing by hand, recording. */
export function SidePanel({ desk }: { desk: Desk }) {
  const {
    id,
    mayChange,
    reel,
    members,
    clock,
    stage,
    chosen,
    setChosen,
    trial,
    setTrial,
    data,
    trialWish,
    side,
    setSide,
    range,
    shift,
    held,
    setHeld,
    mode,
    setMode,
    setBaking,
    setThrough,
    through,
    memberId,
    member,
    who,
    set,
    itemOf,
    lengthOf,
    placement,
    overlay,
    setKeys,
    setRecorded,
    layItem,
    previous,
    join,
    matching,
    tryPose,
    takeNewest,
    removeChosen,
    cut,
    copy,
    mark,
    rig,
    paper,
    joints,
  } = desk;
  return (
    <aside aria-label={texts.reel} className="flex w-[300px] shrink-0 flex-col border-l border-line bg-panel p-3">
      <Tabs value={side} onChange={setSide} className="flex min-h-0 flex-1 flex-col gap-2">
        <TabList
          label={texts.sidePanel}
          tabs={[
            { value: 'library', word: texts.library, title: '1' },
            { value: 'chosen', word: texts.chosen, title: '2' },
            { value: 'hand', word: texts.byHand, title: '3' },
            { value: 'record', word: texts.record, title: '4' },
          ]}
        />
        <TabPanel value="library" className="min-h-0 flex-1">
          <LibraryDrawer
            performer={rig ?? undefined}
            onLay={mayChange ? (item) => layItem(item, memberId ?? null, null, false) : undefined}
            onInsert={mayChange && member ? (item) => layItem(item, member.id, clock.frame, false, true) : undefined}
            onOver={mayChange && member ? (item) => layItem(item, member.id, null, true) : undefined}
            onPose={mayChange && member ? tryPose : undefined}
          />
        </TabPanel>
        <TabPanel value="chosen" className="-mr-3 min-h-0 flex-1 overflow-y-auto pr-3">
          {chosen?.kind === 'join' && placement && member ? (
            <JoinInspector
              from={previous && itemOf(previous)}
              to={itemOf(placement)}
              placement={placement}
              join={join}
              matches={matching.matches}
              trying={matching.trying}
              mayChange={mayChange}
              onChange={(change, label, g) =>
                set(
                  changePlacement(reel, member.id, placement.id, { join: { ...placement.join, ...change } }),
                  label,
                  g,
                )
              }
              onFind={matching.find}
              onMatch={matching.take}
            />
          ) : chosen?.kind === 'base' && placement && member ? (
            <PlacementInspector
              of={placement}
              castId={member.castId}
              paper={rig?.rig.kind === 'cutout'}
              newer={newerThan(placement, data)}
              onNewest={() => takeNewest(placement)}
              item={itemOf(placement)}
              reel={reel}
              mayChange={mayChange}
              onSplit={cut}
              playhead={() => clock.frame}
              onCopy={copy}
              onRemove={removeChosen}
              onChange={(change, label) => {
                const next = changePlacement(reel, member.id, placement.id, change, shift);
                set(longEnough(next, (change.at ?? placement.at) + lengthOf({ ...placement, ...change }) - 1), label);
              }}
            />
          ) : overlay && member ? (
            <OverlayInspector
              of={overlay}
              newer={newerThan(overlay, data)}
              onNewest={() => takeNewest(overlay)}
              paper={rig?.rig.kind === 'cutout'}
              absolute={data.done.get(member.id)?.absolute.includes(overlay.id) ?? false}
              item={itemOf(overlay)}
              reel={reel}
              mayChange={mayChange}
              playhead={() => clock.frame}
              onCopy={copy}
              onRemove={removeChosen}
              onChange={(change, label, g) => set(changeOverlay(reel, member.id, overlay.id, change), label, g)}
            />
          ) : member ? (
            <MemberInspector
              member={member}
              who={who}
              cast={members}
              mayChange={mayChange}
              onSameOn={(castId) => {
                const made = sameOn(reel, member.id, castId);
                set(made.reel, texts.copiedTheLanes(members.find((c) => c.id === castId)?.name));
                setChosen({ kind: 'member', memberId: made.id });
              }}
              onRemove={() => {
                set(removeMember(reel, member.id), texts.tookOff(who?.name));
                setChosen(null);
              }}
              onBake={() => setBaking(true)}
            />
          ) : (
            <p className="text-muted">{texts.chooseSomethingOnThe}</p>
          )}
          <CameraFields
            reel={reel}
            mayChange={mayChange}
            through={through}
            onThrough={setThrough}
            onChange={set}
            view={() => stage.current?.view()}
            frame={() => clock.frame}
          />
          <ReelFields id={id} reel={reel} mayChange={mayChange} onChange={set} onMark={mark} />
        </TabPanel>
        <TabPanel value="hand" className="min-h-0 flex-1 overflow-y-auto">
          {member && reel.members.length > 1 && (
            <Select
              label={texts.whoIsPosed}
              className="mb-2 w-full"
              value={member.id}
              options={reel.members.map((m) => ({
                value: m.id,
                label: members.find((c) => c.id === m.castId)?.name ?? texts.gone,
              }))}
              onChange={(m) => setChosen({ kind: 'member', memberId: m })}
            />
          )}
          {trial && (
            <PoseTrial
              key={trial.item.id}
              item={trial.item}
              wish={trialWish}
              frame={trial.frame}
              onTry={(keys) => setTrial((t) => (t ? { ...t, keys } : null))}
              onSet={(keys, label) => {
                set(changeKeys(reel, trial.memberId, keys), label);
                setTrial(null);
              }}
              onCancel={() => setTrial(null)}
            />
          )}
          {member && !trial && (
            <HandPanel
              keys={member.keys}
              joints={joints}
              held={held}
              mode={mode}
              frame={() => clock.frame}
              fps={reel.fps}
              mayChange={mayChange}
              onHold={(h) => {
                clock.setPlaying(false);
                setHeld(h);
              }}
              onMode={setMode}
              onChange={setKeys}
            />
          )}
          {side === 'hand' && member && paper && !trial && data.done.get(member.id) && (
            <DrawingKeys
              key={`drawings ${member.id}`}
              clock={clock}
              member={member}
              rig={paper.cutout!}
              art={paper.art}
              motion={data.done.get(member.id)!.motion}
              mayChange={mayChange}
              onKey={(name, frame, label, words) => set(setLabelKey(reel, member.id, name, frame, label), words)}
              onKeys={(name, keys, words) => set(setLabelKeys(reel, member.id, name, keys), words)}
            />
          )}
          {side === 'hand' && member && who && rig && !trial && data.done.get(member.id) && (
            <FaceKeys
              key={member.id}
              clock={clock}
              member={member}
              who={who}
              rig={rig}
              motion={data.done.get(member.id)!.motion}
              mayChange={mayChange}
              onKey={(name, frame, value, g) =>
                set(setLevelKey(reel, member.id, name, frame, value), texts.setAtFrame(name, frame + 1), g)
              }
            />
          )}
        </TabPanel>
        <TabPanel value="record" className="min-h-0 flex-1 overflow-y-auto">
          {side === 'record' && member && who && rig && mayChange && data.done.get(member.id) ? (
            <RecordPanel
              key={member.id}
              clock={clock}
              member={member}
              who={who}
              rig={rig}
              motion={data.done.get(member.id)!.motion}
              range={range}
              frames={reel.frames}
              onMember={(next, label) => set(withMember(reel, next), label)}
              onShown={setRecorded}
            />
          ) : (
            <p className="text-muted">{texts.putACastMember}</p>
          )}
        </TabPanel>
      </Tabs>
    </aside>
  );
}
