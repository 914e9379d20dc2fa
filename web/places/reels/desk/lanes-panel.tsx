'use client';

import { Maximize2 } from 'lucide-react';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { ReelLanes } from '../reel-lanes';
import { reelDesk as texts } from '../texts';
import type { Desk } from './use-desk';

/** The playhead’s controls, and the lanes. */
export function LanesPanel({ desk }: { desk: Desk }) {
  const {
    id,
    mayChange,
    reel,
    members,
    clock,
    chosen,
    data,
    setView,
    view,
    range,
    setRange,
    shift,
    setShift,
    setBaking,
    curvesOf,
    setCurvesOf,
    setThrough,
    through,
    member,
    set,
    choose,
    onPlace,
    onOver,
    onRemove,
    onKeys,
    onNumber,
    onMoveKey,
    onRemoveKey,
    onRemoveLevelKey,
    onDrop,
    onAddMember,
    onMute,
    marks,
    onMarker,
  } = desk;
  return (
    <div className="flex h-full min-w-0 flex-col bg-velvet">
      <div className="flex items-center gap-2 border-b border-line px-3 py-1 whitespace-nowrap">
        <div className="min-w-0 max-w-[430px] flex-1">
          <Transport clock={clock} />
        </div>
        <span className="whitespace-nowrap text-muted">{texts.framesS(reel.fps)}</span>
        <Button size="tiny" onClick={() => setView(null)} keys="F" hint={texts.theWholeReelIn}>
          <Maximize2 size={12} className="mr-1 inline" /> {texts.whole}
        </Button>
        <Button
          size="tiny"
          look={shift ? 'brass' : 'plain'}
          aria-pressed={shift}
          onClick={() => setShift(!shift)}
          hint={texts.movingAnItemMoves}
        >
          {shift ? texts.whatFollowsMovesToo : texts.whatFollowsStays}
        </Button>
        <span className="ml-auto" />
        {range && (
          <button
            type="button"
            className="whitespace-nowrap text-brass-text"
            onClick={() => setRange(null)}
            title={texts.escTakesTheRange}
          >
            {texts.framesTo(range.start + 1, range.end + 1)}
          </button>
        )}
        {mayChange && (
          <Button
            size="small"
            look="brass"
            disabled={!member || member.base.length === 0}
            onClick={() => setBaking(true)}
            keys="K"
          >
            {range ? texts.grabThisRange : texts.bake} …
          </Button>
        )}
      </div>
      <div className="min-h-0 flex-1">
        <ReelLanes
          reelId={id}
          clock={clock}
          reel={reel}
          data={data}
          cast={members}
          view={view}
          range={range}
          chosen={chosen}
          landmarks={marks}
          mayChange={mayChange}
          onChoose={choose}
          onPlace={onPlace}
          onOver={onOver}
          onMoveKey={onMoveKey}
          onRemoveKey={onRemoveKey}
          curvesOf={curvesOf}
          onCurves={setCurvesOf}
          onKeys={onKeys}
          onNumber={onNumber}
          onRemoveLevelKey={onRemoveLevelKey}
          onRemove={onRemove}
          onMute={onMute}
          onDrop={onDrop}
          onMarker={onMarker}
          through={through}
          onThrough={setThrough}
          onReel={set}
          onAddMember={onAddMember}
          onView={setView}
        />
      </div>
    </div>
  );
}
