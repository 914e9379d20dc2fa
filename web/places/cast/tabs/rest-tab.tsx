'use client';

import type { Limb, Side } from '@velvet-reel/motion';
import { borrowTurns, restPose, turnsOfPose } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { useCast, useCastRig } from '@/client/queries';
import { solver } from '@/client/solver';
import type { CastMember, Item, RigAnswer } from '@/contract';
import { ItemPicker } from '@/parts/item-picker';
import { rigView } from '@/stage/rig-view';
import { Button } from '@/ui/button';
import { inputLook, Select, SwitchRow } from '@/ui/field';
import { restTab as texts } from '../texts';

const JUDGED: Readonly<Record<string, string>> = {
  T: 'T: both arms level to the side',
  A: 'A: both arms slant down',
  hanging: texts.bothArmsHangBeside,
  other: 'neither T-pose, A-pose nor hanging arms',
};

interface RestTabProps {
  member: CastMember;
  rig: RigAnswer;
  mayChange: boolean;
  comparing: boolean;
  onCompare: (on: boolean) => void;
  posing: string | null;
  onPosing: (joint: string | null) => void;
  onSet: (match: RigAnswer['match'], label: string) => void;
}

/** How a character rests, and the pose that limbs are matched from, which is kept apart from the bind pose. */
export function RestTab({ member, rig, mayChange, comparing, onCompare, posing, onPosing, onSet }: RestTabProps) {
  const [busy, setBusy] = useState(false);
  const [from, setFrom] = useState('');
  const [take, setTake] = useState<Item>();
  const [frame, setFrame] = useState('1');
  const { data: cast = [] } = useCast();
  const lender = useCastRig(from || null);
  const others = cast.filter((c) => c.id !== member.id);
  const straighten = async (limb: Limb | 'all', side: Side, label: string): Promise<void> => {
    setBusy(true);
    try {
      onSet({ turns: await solver().straighten(rig, limb, side), how: label }, texts.straightened(label));
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const borrow = (): void => {
    if (!lender.data) return;
    const [mine, theirs] = [rigView(rig).rig, rigView(lender.data).rig];
    const turns = lender.data.match?.turns ?? turnsOfPose(theirs, restPose(theirs));
    const done = borrowTurns(mine, theirs, turns);
    const name = others.find((c) => c.id === from)?.name ?? 'another';
    if (done.missing.length === mine.names.length) {
      toast.error(texts.andHaveNoJoint(member.name, name));
      return;
    }
    if (done.missing.length > 0) toast(texts.haveNoMatchBy(done.missing.length));
    onSet({ turns: done.turns, how: `from ${name}` }, texts.copiedThePoseOf(name));
  };
  const takeFrame = async (item: Item): Promise<void> => {
    const f = Math.round(Number(frame)) - 1;
    if (!(f >= 0 && f < item.facts.frameCount)) {
      toast.error(texts.enterAFrameFrom(item.facts.frameCount));
      return;
    }
    try {
      const turns = await solver().frameTurns(item.motionHash, rig, f);
      onSet({ turns, how: texts.frameOf(f + 1, item.name) }, texts.tookFrameOfAs(f + 1, item.name));
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <div className="flex flex-col gap-3">
      <p>
        <span className="text-muted">{texts.byTheArms} </span>
        {JUDGED[rig.restKind] ?? rig.restKind}
        {rig.restPose && <span className="text-muted">{texts.takenFromTheFirst}</span>}
      </p>
      <p className={rig.match ? 'text-brass-text' : 'text-muted'}>
        {rig.match ? texts.aMatchingPoseIs(rig.match.how) : texts.limbsAreMatchedFrom}
      </p>
      <SwitchRow label={texts.showTheStandardPose} checked={comparing} onChange={onCompare} />
      {mayChange && (
        <>
          <div>
            <p className="mb-1 text-muted">{texts.straightenALimb}</p>
            <div className="flex flex-wrap gap-1.5">
              {(
                [
                  ['arm', 'L', texts.theLeftArm],
                  ['arm', 'R', texts.theRightArm],
                  ['leg', 'L', texts.theLeftLeg],
                  ['leg', 'R', texts.theRightLeg],
                  ['all', 'L', texts.allFour],
                ] as const
              ).map(([limb, side, label]) => (
                <Button key={label} size="small" disabled={busy} onClick={() => void straighten(limb, side, label)}>
                  {label}
                </Button>
              ))}
            </div>
          </div>
          <div>
            <p className="mb-1 text-muted">{texts.turnAJointBy}</p>
            <Select
              label={texts.jointToTurn}
              value={posing ?? ' '}
              options={[
                { value: ' ', label: texts.none },
                ...rig.rig.joints.map((j) => ({ value: j.name, label: j.name })),
              ]}
              onChange={(j) => onPosing(j === ' ' ? null : j)}
              className="w-full"
            />
          </div>
          <div>
            <p className="mb-1 text-muted">{texts.copyThePoseOf}</p>
            <div className="flex gap-1.5">
              <Select
                label={texts.whosePose}
                value={from || ' '}
                options={[{ value: ' ', label: texts.whose }, ...others.map((c) => ({ value: c.id, label: c.name }))]}
                onChange={(id) => setFrom(id.trim())}
                className="min-w-0 flex-1"
              />
              <Button disabled={!lender.data} onClick={borrow}>
                {texts.copy}
              </Button>
            </div>
          </div>
          <div>
            <p className="mb-1 text-muted">{texts.takeItFromA}</p>
            <ItemPicker
              label={texts.whichMotion}
              fits={(i) => i.rigId === rig.id}
              nothing={texts.noMotionWithThat}
              chosen={take?.id}
              onPick={setTake}
            />
            {take && (
              <div className="mt-1 flex items-center gap-1.5">
                <span className="min-w-0 flex-1 truncate">{texts.frameOf3(take.name)}</span>
                <input
                  aria-label={texts.frameToTake}
                  inputMode="numeric"
                  className={`${inputLook} w-14 py-0!`}
                  value={frame}
                  onChange={(e) => setFrame(e.target.value)}
                />
                <Button onClick={() => void takeFrame(take)}>{texts.take}</Button>
              </div>
            )}
          </div>
          <Button disabled={!rig.match} onClick={() => onSet(null, texts.wentBackToThe)}>
            {texts.backToTheBind}
          </Button>
        </>
      )}
    </div>
  );
}
