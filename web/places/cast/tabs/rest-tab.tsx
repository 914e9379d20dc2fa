'use client';

import type { Limb, Side } from '@velvet-reel/motion';
import { borrowTurns, restPose, turnsOfPose } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { useCast, useCastRig } from '@/client/queries';
import { solver } from '@/client/solver';
import type { CastMember, Item, RigAnswer } from '@/contract';
import { many } from '@/naming/counts';
import { ItemPicker } from '@/parts/item-picker';
import { rigView } from '@/stage/rig-view';
import { Button } from '@/ui/button';
import { inputLook, Select, SwitchRow } from '@/ui/field';

const JUDGED: Readonly<Record<string, string>> = {
  T: 'T: both arms level to the side',
  A: 'A: both arms slant down',
  hanging: 'both arms hang beside the body',
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
      onSet({ turns: await solver().straighten(rig, limb, side), how: label }, `Straightened ${label}`);
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
      toast.error(`${member.name} and ${name} have no joint names in common, so nothing could be copied.`);
      return;
    }
    if (done.missing.length > 0)
      toast(`${many(done.missing.length, 'joint')} have no match by name and keep their rest rotation`);
    onSet({ turns: done.turns, how: `from ${name}` }, `Copied the pose of ${name}`);
  };
  const takeFrame = async (item: Item): Promise<void> => {
    const f = Math.round(Number(frame)) - 1;
    if (!(f >= 0 && f < item.facts.frameCount)) {
      toast.error(`Enter a frame from 1 to ${item.facts.frameCount}.`);
      return;
    }
    try {
      const turns = await solver().frameTurns(item.motionHash, rig, f);
      onSet({ turns, how: `frame ${f + 1} of ${item.name}` }, `Took frame ${f + 1} of ${item.name} as pose`);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <div className="flex flex-col gap-3">
      <p>
        <span className="text-muted">By the arms: </span>
        {JUDGED[rig.restKind] ?? rig.restKind}
        {rig.restPose && <span className="text-muted">, taken from the first frame of its file</span>}
      </p>
      <p className={rig.match ? 'text-brass-text' : 'text-muted'}>
        {rig.match
          ? `A matching pose is set: ${rig.match.how}. The bind pose is unchanged.`
          : 'Limbs are matched from the rest pose. If arms come out wrong, pose the character here; the bind pose is not changed.'}
      </p>
      <SwitchRow label="Show the standard pose over it, arms level" checked={comparing} onChange={onCompare} />
      {mayChange && (
        <>
          <div>
            <p className="mb-1 text-muted">Straighten a limb</p>
            <div className="flex flex-wrap gap-1.5">
              {(
                [
                  ['arm', 'L', 'the left arm'],
                  ['arm', 'R', 'the right arm'],
                  ['leg', 'L', 'the left leg'],
                  ['leg', 'R', 'the right leg'],
                  ['all', 'L', 'all four'],
                ] as const
              ).map(([limb, side, label]) => (
                <Button key={label} size="small" disabled={busy} onClick={() => void straighten(limb, side, label)}>
                  {label}
                </Button>
              ))}
            </div>
          </div>
          <div>
            <p className="mb-1 text-muted">Turn a joint by hand, in the stage</p>
            <Select
              label="Joint to turn"
              value={posing ?? ' '}
              options={[
                { value: ' ', label: 'none' },
                ...rig.rig.joints.map((j) => ({ value: j.name, label: j.name })),
              ]}
              onChange={(j) => onPosing(j === ' ' ? null : j)}
              className="w-full"
            />
          </div>
          <div>
            <p className="mb-1 text-muted">Copy the pose of a similar rig</p>
            <div className="flex gap-1.5">
              <Select
                label="Whose pose"
                value={from || ' '}
                options={[{ value: ' ', label: 'whose?' }, ...others.map((c) => ({ value: c.id, label: c.name }))]}
                onChange={(id) => setFrom(id.trim())}
                className="min-w-0 flex-1"
              />
              <Button disabled={!lender.data} onClick={borrow}>
                Copy
              </Button>
            </div>
          </div>
          <div>
            <p className="mb-1 text-muted">Take it from a frame</p>
            <ItemPicker
              label="Which motion"
              fits={(i) => i.rigId === rig.id}
              nothing="No motion with that name is on this skeleton."
              chosen={take?.id}
              onPick={setTake}
            />
            {take && (
              <div className="mt-1 flex items-center gap-1.5">
                <span className="min-w-0 flex-1 truncate">frame of {take.name}</span>
                <input
                  aria-label="Frame to take"
                  inputMode="numeric"
                  className={`${inputLook} w-14 py-0!`}
                  value={frame}
                  onChange={(e) => setFrame(e.target.value)}
                />
                <Button onClick={() => void takeFrame(take)}>Take</Button>
              </div>
            )}
          </div>
          <Button disabled={!rig.match} onClick={() => onSet(null, 'Went back to the bind pose')}>
            Back to the bind pose
          </Button>
        </>
      )}
    </div>
  );
}
