'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp, Heart, Layers, Star } from 'lucide-react';
import { type MouseEvent, type ReactNode, useEffect, useRef, useState } from 'react';
import { useRig } from '@/client/queries';
import { useStrip } from '@/client/strips';
import type { Item, RigAnswer } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { TagColours, TagWords } from '@/parts/tag-words';
import type { Clock } from '@/stage/clock';
import { StripCanvas } from '@/stage/strip-canvas';
import { Chip } from '@/ui/chip';
import { Empty } from '@/ui/empty';
import { COLUMNS, type ColumnId } from './columns';
import { DrawingRow } from './drawing-row';
import { itemViews as texts } from './texts';
import type { Density, Library, LibraryView } from './use-library';

export interface Acts {
  onChoose: (item: Item, index: number, how: 'only' | 'toggle' | 'stretch') => void;
  /** Which item is pointed at and where along it, 0 … 1. */
  onPoint: (item: Item | null, share: number | null) => void;
  onOpen: (item: Item) => void;
}

interface ViewProps extends Acts {
  library: Library;
  density: Density;
  chosenId: string | undefined;
  selected: ReadonlySet<string>;
  performer: RigAnswer | undefined;
  clock: Clock;
  columns: readonly ColumnId[];
  sort: LibraryView['sort'];
  backwards: boolean;
  onSort: (sort: LibraryView['sort']) => void;
}

const ROW: Record<Density, number> = { strips: 132, table: 30, tiles: 168 };
const TILE = 196;

const howOf = (e: MouseEvent): 'only' | 'toggle' | 'stretch' =>
  e.shiftKey ? 'stretch' : e.ctrlKey || e.metaKey ? 'toggle' : 'only';

/** Items as strips, as a table or as tiles; only what is on the screen is drawn, however many there are. */
export function ItemViews(props: ViewProps) {
  const { library, density, chosenId } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const across = density === 'tiles' ? Math.max(1, Math.floor((width - 32) / TILE)) : 1;
  const lines = Math.ceil(library.count / across);
  const rows = useVirtualizer({
    count: lines,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW[density],
    overscan: density === 'table' ? 12 : 4,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: another density has other heights
  useEffect(() => rows.measure(), [density, rows]);
  useEffect(() => {
    const node = scroller.current;
    if (!node) return;
    const watch = new ResizeObserver(() => setWidth(node.clientWidth));
    watch.observe(node);
    return () => watch.disconnect();
  }, []);
  const visible = rows.getVirtualItems();
  const from = (visible[0]?.index ?? 0) * across;
  const to = ((visible.at(-1)?.index ?? 0) + 1) * across;
  const { showing } = library;
  useEffect(() => showing(from, to), [from, to, showing]);
  const chosenAt = chosenId === undefined ? -1 : library.indexOf(chosenId);
  useEffect(() => {
    if (chosenAt >= 0) rows.scrollToIndex(Math.floor(chosenAt / across), { align: 'auto' });
  }, [chosenAt, across, rows]);
  if (library.count === 0) return <Empty title={texts.nothingIsHere} />;
  return (
    <TagColours>
      <div className="flex h-full flex-col">
        {density === 'table' && <TableHead {...props} width={width} />}
        <div
          ref={scroller}
          className="min-h-0 flex-1 overflow-y-auto px-4 pt-1 pb-4"
          role="listbox"
          aria-label={density === 'strips' ? texts.strips : density === 'table' ? texts.table : texts.tiles}
          aria-multiselectable
          aria-activedescendant={chosenAt >= 0 ? optionId(chosenId!) : undefined}
          tabIndex={0}
        >
          <div className="relative" style={{ height: rows.getTotalSize() }}>
            {visible.map((row) => (
              <div
                key={row.key}
                className="absolute inset-x-0 grid gap-2.5"
                style={{
                  top: row.start,
                  height: ROW[density] - (density === 'table' ? 0 : 8),
                  // a last row that is not full has cells as wide as the others
                  gridTemplateColumns: `repeat(${across}, minmax(0, 1fr))`,
                }}
              >
                {Array.from({ length: across }, (_, k) => {
                  const index = row.index * across + k;
                  if (index >= library.count) return null;
                  const item = library.at(index);
                  return (
                    <Cell
                      key={item?.id ?? index}
                      {...props}
                      item={item}
                      index={index}
                      width={(width - 32 - 10 * (across - 1)) / across - 26}
                    />
                  );
                })}
              </div>
            ))}
          </div>
        </div>
      </div>
    </TagColours>
  );
}

const optionId = (itemId: string): string => `item-${itemId}`;

interface CellProps extends ViewProps {
  item: Item | undefined;
  index: number;
  width: number;
}

function Cell(props: CellProps) {
  const { item, density, chosenId, selected, onChoose, onOpen, index } = props;
  if (!item) return <Coming density={density} name={props.library.nameAt(index)} />;
  const chosen = item.id === chosenId;
  const marked = selected.has(item.id) && selected.size > 1;
  const Body = density === 'strips' ? StripBody : density === 'table' ? TableBody : TileBody;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the arrow keys choose, F opens
    <div
      role="option"
      id={optionId(item.id)}
      aria-posinset={index + 1}
      aria-setsize={props.library.count}
      aria-selected={chosen || marked}
      tabIndex={-1}
      onClick={(e) => onChoose(item, index, howOf(e))}
      onDoubleClick={() => onOpen(item)}
      className={clsx(
        'h-full min-w-0 cursor-default border select-none',
        density === 'table' ? 'rounded-md px-2' : 'rounded-lg bg-panel px-3 pt-2',
        chosen
          ? 'border-brass'
          : marked
            ? 'border-brass/60'
            : density === 'table'
              ? 'border-transparent hover:bg-raised'
              : 'border-line hover:border-muted',
        marked && 'bg-raised',
      )}
    >
      <Body {...props} item={item} />
    </div>
  );
}

/** A row whose page is not here yet: its name, where that is known already. */
function Coming({ density, name }: { density: Density; name: readonly [string, string] | undefined }) {
  return (
    <div
      data-coming={name ? 'named' : ''}
      className={clsx(
        'h-full min-w-0 overflow-hidden rounded-lg bg-raised/50',
        density === 'table' ? 'flex items-center px-2' : 'px-3 pt-2',
        !name && 'animate-pulse',
      )}
      aria-hidden
    >
      {name && (
        <span className="flex items-center gap-2 text-muted">
          <span className="truncate font-medium">{name[0]}</span>
          <Chip>{name[1]}</Chip>
        </span>
      )}
    </div>
  );
}

type BodyProps = CellProps & { item: Item };

/** Leads the clock by the pointer: the place along the picture is the place in the motion. */
function useScrub({ item, clock, onPoint }: BodyProps): (share: number | null) => void {
  const playedBefore = useRef(true);
  const inside = useRef(false);
  return (share) => {
    if (share === null) {
      inside.current = false;
      onPoint(null, null);
      clock.setPlaying(playedBefore.current);
      return;
    }
    if (!inside.current) {
      inside.current = true;
      playedBefore.current = clock.playing;
      clock.setPlaying(false);
    }
    onPoint(item, share);
  };
}

function useDrawn({ item, performer }: BodyProps) {
  const strip = useStrip(item.readingId);
  // with no performer on hand a motion is drawn on its own skeleton
  const { onOwn } = kindOf(item);
  const own = useRig(performer && !onOwn ? null : item.rigId);
  return { strip, body: onOwn ? own.data : (performer ?? own.data) };
}

/** What stands for an item in a list: its strip, or the drawings that it keeps. */
function Picture({ height, onScrub, ...props }: BodyProps & { height: number; onScrub: ReturnType<typeof useScrub> }) {
  const { item, width } = props;
  const { strip, body } = useDrawn(props);
  if (!strip || !body || width < 60) return <div className="mt-3 h-16 animate-pulse rounded bg-raised/60" />;
  if (kindOf(item).content === 'drawings' && body.art)
    return <DrawingRow art={body.art} provenance={item.provenance} height={height} />;
  return <StripCanvas strip={strip} performer={body} width={width} height={height} onScrub={onScrub} />;
}

function StripBody(props: BodyProps) {
  const { item } = props;
  const scrub = useScrub(props);
  return (
    <>
      <div className="flex h-5 items-center gap-2">
        <span className="truncate font-semibold">{item.name}</span>
        <Chip>{item.kind}</Chip>
        <Marks item={item} score={scoreOf(item, props.library)} />
        <span className="min-w-0 truncate text-[11.5px] text-muted">
          <TagWords tags={item.tags} between=" · " />
        </span>
        <span className="ml-auto shrink-0 text-[11.5px] whitespace-nowrap text-muted">
          {item.facts.frameCount} f · {item.facts.durationS.toFixed(1)} s
        </span>
      </div>
      <Picture {...props} height={ROW.strips - 8 - 32} onScrub={scrub} />
    </>
  );
}

function TileBody(props: BodyProps) {
  const { item } = props;
  const scrub = useScrub(props);
  return (
    <div className="flex h-full flex-col">
      <div className="min-h-0 flex-1 overflow-hidden">
        {item.stillHash ? (
          // biome-ignore lint/performance/noImgElement: the picture comes from the library itself
          <img src={`/api/v1/files/${item.stillHash}`} alt="" className="mx-auto h-full object-contain" />
        ) : (
          <Picture {...props} height={96} onScrub={scrub} />
        )}
      </div>
      <div className="truncate font-semibold" title={item.name}>
        {item.name}
      </div>
      <div className="flex items-center gap-1.5 pb-2 text-[11.5px] text-muted">
        {item.kind} · {item.facts.durationS.toFixed(1)} s
        <span className="ml-auto flex items-center gap-1">
          <Marks item={item} score={scoreOf(item, props.library)} />
        </span>
      </div>
    </div>
  );
}

function TableBody(props: BodyProps) {
  const { item, columns, library } = props;
  return (
    <div className="flex h-full items-center gap-3">
      {COLUMNS.filter((c) => columns.includes(c.id)).map((c) => (
        <span key={c.id} className={clsx('truncate', c.width, c.id === 'name' ? 'font-medium' : 'text-muted')}>
          {c.cell(item, scoreOf(item, library))}
        </span>
      ))}
    </div>
  );
}

function TableHead({ columns, sort, backwards, onSort, width }: ViewProps & { width: number }) {
  return (
    <div
      className="mx-4 flex h-7 shrink-0 items-center gap-3 border-b border-line px-[9px] text-[11.5px] text-muted"
      style={{ width: width - 32 }}
    >
      {COLUMNS.filter((c) => columns.includes(c.id)).map((c) => (
        <span key={c.id} className={clsx('truncate', c.width)}>
          {c.sort ? (
            <button
              type="button"
              onClick={() => onSort(c.sort!)}
              className="inline-flex items-center gap-1 hover:text-ink"
            >
              {c.label}
              {sort === c.sort && (backwards ? <ArrowUp size={11} /> : <ArrowDown size={11} />)}
            </button>
          ) : (
            c.label
          )}
        </span>
      ))}
    </div>
  );
}

/** Small signs: favourite, stars, pack count, version, score on the performer. */
/** How well it fits the performer; nothing for drawings, which no other body shows. */
const scoreOf = (item: Item, library: Library): number | undefined =>
  kindOf(item).onOwn ? undefined : library.score(item.id);

function Marks({ item, score }: { item: Item; score: number | undefined }): ReactNode {
  return (
    <>
      {item.favourite && <Heart size={12} className="fill-current text-brass" aria-label={texts.favourite} />}
      {item.rating > 0 && (
        <span className="flex items-center gap-0.5 text-[11.5px] text-brass-text">
          <Star size={11} className="fill-current" /> {item.rating}
        </span>
      )}
      {kindOf(item).content === 'members' && (
        <Chip tone="brass">
          <Layers size={11} /> {item.members}
        </Chip>
      )}
      {item.versions > 1 && <Chip>v{item.version}</Chip>}
      {score !== undefined && (
        <span
          className={clsx(
            'whitespace-nowrap text-[11.5px]',
            score >= 80 ? 'text-muted' : score >= 50 ? 'text-brass-text' : 'text-raspberry',
          )}
          title={texts.howWellItFits}
        >
          {texts.fits(score)}
        </span>
      )}
    </>
  );
}
