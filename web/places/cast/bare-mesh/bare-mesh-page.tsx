'use client';

import { type ClayView, inPicture, MARK_SLOTS, type MarkSlot } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Redo2, Rotate3d, Undo2, X } from 'lucide-react';
import { type ReactNode, useEffect, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { toast } from 'sonner';
import { bringInFile } from '@/client/api';
import { useKeys } from '@/client/keys';
import { useRefresh } from '@/client/queries';
import type { MadeSkeleton } from '@/solver/bare-mesh';
import { Button, IconButton } from '@/ui/button';
import { SwitchRow } from '@/ui/field';
import { bareMeshPage as texts } from '../texts';
import { LooseParts } from './loose-parts';
import { MarkView, Picture, Views } from './mark-view';
import { type BareMesh, FRAMES, markWord, useBareMesh } from './use-bare-mesh';

const ACCEPT = {
  'model/gltf-binary': ['.glb'],
  'model/gltf+json': ['.gltf'],
  'model/obj': ['.obj'],
  'model/stl': ['.stl'],
};
const PROOF_FPS = 9;

/** From a mesh without a skeleton to a cast member: drop, mark, look at it moving, accept. */
export function BareMeshPage({ onClose, onMade }: { onClose: () => void; onMade: (castId: string) => void }) {
  const mesh = useBareMesh();
  const [name, setName] = useState('');
  const [lit, setLit] = useState<MarkSlot | null>(null);
  const [pointed, setPointed] = useState<number | null>(null);
  const [sending, setSending] = useState(false);
  const refresh = useRefresh();
  const { getRootProps, getInputProps, open, isDragActive } = useDropzone({
    multiple: false,
    noClick: true,
    accept: ACCEPT,
    onDropAccepted: ([f]) => {
      if (!f) return;
      setName(f.name.replace(/\.[^.]*$/, ''));
      mesh.open(f);
    },
    onDropRejected: () => toast.error(texts.dropOneGlbGltf),
  });
  useKeys('mod+z', () => !mesh.made && mesh.undo());
  useKeys('mod+shift+z,mod+y', () => !mesh.made && mesh.redo());

  const accept = async (): Promise<void> => {
    if (!mesh.made) return;
    setSending(true);
    try {
      const bytes = mesh.made.glb as Uint8Array<ArrayBuffer>;
      const file = new File([bytes], `${name.trim() || texts.body}.glb`, { type: 'model/gltf-binary' });
      const row = await bringInFile(file);
      refresh();
      const made = row.result?.cast[0];
      if (made) onMade(made.id);
      else onClose();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setSending(false);
    }
  };

  const { opened, state, made } = mesh;
  return (
    <section
      aria-label={texts.aSkeletonForA}
      {...getRootProps()}
      className={clsx('flex min-w-0 flex-1', isDragActive && 'outline-2 outline-brass -outline-offset-4')}
    >
      <input {...getInputProps({ 'aria-label': texts.meshFile })} />
      <div className="flex min-w-0 flex-1 items-center justify-center gap-3 p-4">
        {!opened && (
          <div className="flex max-w-md flex-col items-start gap-3">
            <h2 className="heading text-2xl">{texts.aSkeletonForA}</h2>
            <p className="text-muted">{texts.dropABodyWithout}</p>
            <Button look="brass" onClick={open} disabled={mesh.busy !== undefined}>
              {mesh.busy === 'reading' ? texts.reading : texts.chooseAFileOr}
            </Button>
            {mesh.error && (
              <p role="alert" className="text-raspberry">
                {mesh.error}
              </p>
            )}
          </div>
        )}
        {opened && state && !made && (
          <Views>
            {(['front', 'side'] as const).map((view) => (
              <MarkView
                key={view}
                view={view}
                picture={opened.pictures[view]}
                marks={state.marks}
                sources={state.sources}
                lit={lit}
                part={pointed === null ? undefined : opened.parts[pointed]}
                onLit={setLit}
                onMove={mesh.move}
                onTurn={() => mesh.turn(view)}
              />
            ))}
          </Views>
        )}
        {opened && made && <ProofViews made={made} />}
      </div>
      <aside className="flex w-[300px] shrink-0 flex-col gap-3 overflow-y-auto border-line border-l p-4">
        <div className="flex items-start justify-between">
          <h2 className="heading text-lg">{made ? texts.doesItMoveWell : texts.marks}</h2>
          <IconButton label={texts.close} onClick={onClose}>
            <X size={16} />
          </IconButton>
        </div>
        {!opened && <p className="text-muted">{texts.nothingIsOpenYet}</p>}
        {opened && state && !made && (
          <MarkList mesh={mesh} lit={lit} onLit={setLit} triangles={opened.triangles}>
            <LooseParts parts={opened.parts} ties={state.ties} onPoint={setPointed} onTie={mesh.tie} />
          </MarkList>
        )}
        {made && (
          <>
            <p className="text-muted">
              {texts.jointsAndSkinWithAt(made.joints[0]!.length, (made.ms / 1000).toFixed(1))}
            </p>
            {mesh.fingers && <p className="text-muted">{texts.fingersMade(made.fingers.L, made.fingers.R)}</p>}
            <label className="flex flex-col gap-1">
              <span className="text-muted">{texts.nameInTheCast}</span>
              <input
                value={name}
                maxLength={200}
                onChange={(e) => setName(e.target.value)}
                className="rounded border border-line bg-velvet px-2 py-1"
              />
            </label>
            <Button look="brass" disabled={sending} onClick={() => void accept()}>
              {sending ? texts.bringingItIn : texts.acceptIntoTheCast}
            </Button>
            <Button onClick={mesh.back} disabled={sending}>
              {texts.backToTheMarks}
            </Button>
          </>
        )}
        {opened && mesh.error && (
          <p role="alert" className="text-raspberry">
            {mesh.error}
          </p>
        )}
      </aside>
    </section>
  );
}

const SOURCE_WORDS = {
  marked: 'marked',
  mirrored: 'mirrored',
  'by shape': 'suggested',
  'not found': 'not found',
} as const;
const SOURCE_LOOKS = {
  marked: 'text-muted',
  mirrored: 'text-muted',
  'by shape': 'text-brass-text',
  'not found': 'text-raspberry',
} as const;

function MarkList({
  mesh,
  lit,
  onLit,
  triangles,
  children,
}: {
  mesh: BareMesh;
  lit: MarkSlot | null;
  onLit: (slot: MarkSlot | null) => void;
  triangles: number;
  children: ReactNode;
}) {
  const { state } = mesh;
  if (!state) return null;
  const lacking = Object.values(state.sources).includes('not found');
  return (
    <>
      <p className="text-muted">{texts.trianglesDragAMarkIn(triangles.toLocaleString('en'))}</p>
      <ul className="flex flex-col">
        {MARK_SLOTS.map((slot) => (
          <li
            key={slot}
            onPointerEnter={() => onLit(slot)}
            onPointerLeave={() => onLit(null)}
            className={clsx('flex items-center gap-2 rounded px-1 py-0.5', lit === slot && 'bg-raised')}
          >
            <span
              className={clsx(
                'size-2.5 rounded-full',
                slot.endsWith('L') ? 'bg-verdigris' : slot.endsWith('R') ? 'bg-terracotta' : 'bg-ink',
              )}
            />
            {markWord(slot)}
            <span className={clsx('ml-auto', SOURCE_LOOKS[state.sources[slot]])}>
              {SOURCE_WORDS[state.sources[slot]]}
            </span>
          </li>
        ))}
      </ul>
      <Button look="quiet" className="flex items-center gap-1.5 self-start" onClick={() => mesh.turn('about')}>
        <Rotate3d size={14} /> {texts.turnAbout}
      </Button>
      <SwitchRow label={texts.mirrorLeftAndRight} checked={mesh.mirror} onChange={mesh.setMirror}>
        {texts.leftAndRightMove}
      </SwitchRow>
      <SwitchRow label={texts.fingers} checked={mesh.fingers} onChange={mesh.setFingers}>
        {texts.fingersWhereShown}
      </SwitchRow>
      {children}
      <div className="flex gap-2">
        <Button onClick={mesh.undo} disabled={!mesh.canUndo}>
          <Undo2 size={14} /> {texts.undo}
        </Button>
        <Button onClick={mesh.redo} disabled={!mesh.canRedo}>
          <Redo2 size={14} /> {texts.redo}
        </Button>
      </div>
      {lacking && <p className="text-raspberry">{texts.theShapeDoesNot}</p>}
      <Button look="brass" onClick={mesh.rig} disabled={mesh.busy !== undefined || lacking}>
        {mesh.busy === 'rigging' ? texts.makingJointsAndSkin : texts.makeTheSkeleton}
      </Button>
    </>
  );
}

/** The body going through what it can do, from both sides, with its bones. */
function ProofViews({ made }: { made: NonNullable<BareMesh['made']> }) {
  const [at, setAt] = useState(0);
  const [playing, setPlaying] = useState(() => !matchMedia('(prefers-reduced-motion: reduce)').matches);
  const count = made.proof.front.length;
  useEffect(() => {
    if (!playing) return;
    const timer = setInterval(() => setAt((i) => (i + 1) % count), 1000 / PROOF_FPS);
    return () => clearInterval(timer);
  }, [playing, count]);
  return (
    <div className="flex min-w-0 flex-1 flex-col items-center justify-center gap-3">
      <Views>
        {(['front', 'side'] as const).map((view) => (
          <div
            key={view}
            className="relative"
            style={{ aspectRatio: `${FRAMES[view].width} / ${FRAMES[view].height}` }}
          >
            <Picture picture={made.proof[view][at]!} label={texts.theBodyMovingFrom(view)} />
            {!playing && <Bones view={view} bones={made.bones} joints={made.joints[at]!} />}
          </div>
        ))}
      </Views>
      <div className="flex items-center gap-3">
        <Button onClick={() => setPlaying(!playing)}>{playing ? texts.stop : texts.play}</Button>
        <input
          type="range"
          className="accent-(--brass)"
          aria-label={texts.momentOfTheProof}
          min={0}
          max={count - 1}
          value={at}
          onChange={(e) => {
            setPlaying(false);
            setAt(Number(e.target.value));
          }}
        />
      </div>
    </div>
  );
}

function Bones({
  view,
  bones,
  joints,
}: {
  view: ClayView;
  bones: MadeSkeleton['bones'];
  joints: MadeSkeleton['joints'][number];
}) {
  const frame = FRAMES[view];
  return (
    <svg viewBox={`0 0 ${frame.width} ${frame.height}`} className="absolute inset-0 size-full" aria-hidden="true">
      {bones.map(([from, to]) => {
        const [a, b] = [inPicture(view, frame, joints[from]!), inPicture(view, frame, joints[to]!)];
        return <line key={to} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} className="stroke-brass" strokeWidth={2} />;
      })}
    </svg>
  );
}
