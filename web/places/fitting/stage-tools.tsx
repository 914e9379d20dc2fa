'use client';

import { clsx } from 'clsx';
import { Bone, Camera, Clapperboard, Columns2, Footprints, Ghost, Layers2, Spline, UsersRound } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { memo, type ReactNode, type RefObject, useEffect, useState } from 'react';
import type { CastMember } from '@/contract';
import type { StageHandle } from '@/stage/contract';
import { Hint } from '@/ui/hint';
import { stageTools as texts } from './texts';

export const ALIGNS = ['hips', 'left foot', 'right foot', 'world'] as const;
/** How source and target are shown together. */
export interface StageView {
  over: boolean;
  align: (typeof ALIGNS)[number];
  trails: boolean;
  ghosts: boolean;
  show: 'both' | 'source' | 'target';
  body: 'mesh' | 'bones';
}
export const PLAIN_VIEW: StageView = {
  over: false,
  align: 'hips',
  trails: false,
  ghosts: false,
  show: 'both',
  body: 'mesh',
};

const ANGLES: [string, [number, number, number]][] = [
  [texts.front, [0, 0.12, 1]],
  [texts.leftSide, [1, 0.12, 0]],
  [texts.rightSide, [-1, 0.12, 0]],
  [texts.back, [0, 0.12, -1]],
  [texts.fromAbove, [0, 1, 0.02]],
  [texts.fromTheFrontLeft, [0.5, 0.2, 1]],
];
const KEPT = 'velvet-views';
type KeptView = { name: string; from: [number, number, number] };
const keptViews = (): KeptView[] => {
  try {
    const list = JSON.parse(localStorage.getItem(KEPT) ?? '[]') as KeptView[];
    return Array.isArray(list) ? list.filter((v) => v.from?.length === 3 && v.from.every(Number.isFinite)) : [];
  } catch {
    return [];
  }
};

interface StageToolsProps {
  view: StageView;
  onView: (change: Partial<StageView>) => void;
  stage: RefObject<StageHandle | null>;
  cast: readonly CastMember[];
  member: CastMember | undefined;
  also: readonly string[];
  onAlso: (ids: string[]) => void;
  onFilm: () => void;
}

const row =
  'flex cursor-pointer items-center gap-2 rounded px-2 py-1 outline-none select-none data-highlighted:bg-panel data-highlighted:text-brass-text';

/** What is shown in the stage and how; all of it in sight, none of it changes the fitting. */
export const StageTools = memo(function StageTools({
  view,
  onView,
  stage,
  cast,
  member,
  also,
  onAlso,
  onFilm,
}: StageToolsProps) {
  const [kept, setKept] = useState<KeptView[]>([]);
  useEffect(() => setKept(keptViews()), []);
  const store = (views: KeptView[]): void => {
    setKept(views);
    localStorage.setItem(KEPT, JSON.stringify(views));
  };
  return (
    <div
      className="absolute inset-x-3 bottom-2 flex items-center gap-1"
      role="toolbar"
      aria-label={texts.whatTheStageShows}
    >
      <Toggle
        label={view.over ? texts.overlaidShowSideBy : texts.sideBySideOverlay}
        keys="O"
        on={view.over}
        onClick={() => onView({ over: !view.over })}
      >
        {view.over ? <Layers2 size={14} /> : <Columns2 size={14} />}
        {view.over ? texts.overlaid : texts.sideBySide}
      </Toggle>
      <Menu
        label={texts.whereTheyAlign}
        icon={<Footprints size={14} />}
        text={view.align === 'world' ? texts.inTheWorld : texts.atThe(view.align)}
      >
        {ALIGNS.map((a) => (
          <DropdownMenu.Item key={a} className={row} onSelect={() => onView({ align: a })}>
            <span className={clsx(view.align === a && 'text-brass-text')}>
              {a === 'world' ? texts.eachAtItsPlace : texts.togetherAtThe(a)}
            </span>
          </DropdownMenu.Item>
        ))}
      </Menu>
      <Toggle
        label={texts.trailsOfHandsFeet}
        keys="Y"
        on={view.trails}
        onClick={() => onView({ trails: !view.trails })}
      >
        <Spline size={14} /> {texts.trails}
      </Toggle>
      <Toggle
        label={texts.ghostsPosesBeforeAnd}
        keys="G"
        on={view.ghosts}
        onClick={() => onView({ ghosts: !view.ghosts })}
      >
        <Ghost size={14} /> {texts.ghosts}
      </Toggle>
      <Menu label={texts.whoIsShown} text={view.show === 'both' ? texts.both : texts.onlyThe(view.show)}>
        {(['both', 'source', 'target'] as const).map((s) => (
          <DropdownMenu.Item key={s} className={row} onSelect={() => onView({ show: s })}>
            {s === 'both' ? texts.sourceAndTarget : texts.onlyThe2(s)}
          </DropdownMenu.Item>
        ))}
        {member?.assets.figure && (
          <>
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item
              className={row}
              onSelect={() => onView({ body: view.body === 'mesh' ? 'bones' : 'mesh' })}
            >
              <Bone size={13} /> {view.body === 'mesh' ? texts.targetAsBones : texts.targetWithItsMesh}
            </DropdownMenu.Item>
          </>
        )}
      </Menu>
      <Menu label={texts.lookFrom} icon={<Camera size={14} />} text={texts.lookFrom2}>
        {ANGLES.map(([name, from]) => (
          <DropdownMenu.Item key={name} className={row} onSelect={() => stage.current?.look(from)}>
            {name}
          </DropdownMenu.Item>
        ))}
        <DropdownMenu.Separator className="my-1 h-px bg-line" />
        {kept.map((v) => (
          <DropdownMenu.Item key={v.name} className={row} onSelect={() => stage.current?.look(v.from)}>
            {v.name}
          </DropdownMenu.Item>
        ))}
        <DropdownMenu.Item
          className={row}
          onSelect={() => {
            const from = stage.current?.eye();
            if (from) store([...kept.slice(-5), { name: texts.view(kept.length + 1), from }]);
          }}
        >
          {texts.saveThisView}
        </DropdownMenu.Item>
        {kept.length > 0 && (
          <DropdownMenu.Item className={row} onSelect={() => store([])}>
            {texts.forgetSavedViews}
          </DropdownMenu.Item>
        )}
      </Menu>
      <Menu
        label={texts.furtherCharacters}
        icon={<UsersRound size={14} />}
        text={also.length === 0 ? texts.alsoOn : texts.alsoOn2(also.length)}
      >
        {cast
          .filter((c) => c.id !== member?.id)
          .map((c) => {
            const on = also.includes(c.id);
            return (
              <DropdownMenu.CheckboxItem
                key={c.id}
                checked={on}
                disabled={!on && also.length >= 4}
                className={row}
                onSelect={(e) => {
                  e.preventDefault();
                  onAlso(on ? also.filter((x) => x !== c.id) : [...also, c.id]);
                }}
              >
                <span className={clsx('size-3 rounded-sm border', on ? 'border-brass bg-brass' : 'border-muted')} />
                {c.name}
              </DropdownMenu.CheckboxItem>
            );
          })}
      </Menu>
      <Hint text={texts.makeAReviewFilm}>
        <button
          type="button"
          aria-label={texts.makeAReviewFilm2}
          onClick={onFilm}
          className={clsx(look, 'border-line text-muted')}
        >
          <Clapperboard size={14} /> {texts.film}
        </button>
      </Hint>
    </div>
  );
});

const look =
  'inline-flex items-center gap-1.5 rounded-md border bg-panel/85 px-2 py-0.5 text-[12px] whitespace-nowrap hover:text-ink';

function Toggle({
  label,
  keys,
  on,
  onClick,
  children,
}: {
  label: string;
  keys: string;
  on: boolean;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Hint text={label} keys={keys}>
      <button
        type="button"
        aria-label={label}
        aria-pressed={on}
        onClick={onClick}
        className={clsx(look, on ? 'border-brass text-brass-text' : 'border-line text-muted')}
      >
        {children}
      </button>
    </Hint>
  );
}

function Menu({ label, icon, text, children }: { label: string; icon?: ReactNode; text: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger aria-label={`${label}: ${text}`} className={clsx(look, 'border-line text-muted')}>
        {icon} {text}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side="top"
          align="start"
          sideOffset={4}
          className="z-50 max-h-80 min-w-44 overflow-y-auto rounded-lg border border-line bg-raised p-1 shadow-xl"
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
