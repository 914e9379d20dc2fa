'use client';

import {
  Archive,
  ArchiveRestore,
  Camera,
  Download,
  Hand,
  Heart,
  History,
  PersonStanding,
  ScanSearch,
  SlidersHorizontal as Wand,
} from 'lucide-react';
import { useChangeItem, useFolders } from '@/client/queries';
import { useMay } from '@/client/session';
import type { CastMember, Item, ItemChange } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { OthersHere } from '@/parts/others-here';
import type { Reading } from '@/solver/solve';
import { Button, IconButton } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { KeptInput, Row, SwitchRow } from '@/ui/field';
import { DescriptionFields } from './description-fields';
import { pathOf } from './folder-tree';
import { ReadingPanel } from './reading-panel';
import { StaleLine } from './stale-line';
import { itemPanel as texts } from './texts';
import { useStill } from './use-still';
import { UsesLine } from './uses-line';

interface ItemPanelProps {
  item: Item;
  performer: CastMember | undefined;
  reading: Reading | undefined;
  onChange: () => void;
  onFit: () => void;
  onExport: () => void;
  onHold: () => void;
  onLike: () => void;
  onPose: () => void;
  onBin: () => void;
  onVersions: () => void;
  onFavourite: () => void;
  onOpenPack: (id: string) => void;
  onShow: (id: string) => void;
  /** Whether the sequence it stands in is played on. */
  playingOn: boolean;
  onPlayOn: () => void;
}

const origin = ({ provenance: p }: Item): string =>
  p.how === 'fitting'
    ? texts.fittingOf(p.sourceName)
    : p.how === 'change'
      ? `${p.sourceName}: ${p.words.join(', ')}`
      : p.how === 'reel'
        ? texts.theReelFramesTo(p.reelName, p.start + 1, p.end + 1)
        : p.how === 'drawings'
          ? texts.theDrawingsOf(p.castName, p.parts.join(', '))
          : p.file;

/** What the chosen item is, its description to be edited in place, and what can be done with it. */
export function ItemPanel({
  item,
  performer,
  reading,
  onChange,
  onFit,
  onExport,
  onHold,
  onLike,
  onPose,
  onBin,
  onVersions,
  onFavourite,
  onOpenPack,
  onShow,
  playingOn,
  onPlayOn,
}: ItemPanelProps) {
  const change = useChangeItem();
  const keepsDrawings = kindOf(item).content === 'drawings';
  const { data: folders = [] } = useFolders();
  const { facts } = item;
  const set = (c: ItemChange, label: string): void => change.mutate({ item, change: c, label });
  const binned = item.binnedAt !== null;
  const mayChange = useMay('animator');
  const folder = folders.find((f) => f.id === item.folderId);
  const closed = !mayChange || folder?.open === false;
  const takeStill = useStill(item);
  return (
    <div className="flex max-h-[62%] shrink-0 flex-col border-t border-line">
      <div className="flex min-h-0 flex-1 flex-col gap-2.5 overflow-y-auto px-4 pt-3 pb-3">
        <OthersHere subjectId={item.id} />
        <div className="flex items-center gap-1">
          <KeptInput
            readOnly={closed}
            aria-label={texts.name}
            value={item.name}
            onKeep={(name) => name && set({ name }, texts.renamedTo(item.name, name))}
            className="heading min-w-0 flex-1 border-transparent! bg-transparent! px-1! py-0! text-[17px] hover:border-line!"
          />
          <IconButton
            label={item.favourite ? texts.removeFromFavourites : texts.addToFavourites}
            keys="H"
            quiet
            pressed={item.favourite}
            onClick={onFavourite}
          >
            <Heart size={14} className={item.favourite ? 'fill-current' : ''} />
          </IconButton>
          <IconButton label={texts.versionsAndHistory} keys="V" quiet onClick={onVersions}>
            <History size={14} />
          </IconButton>
          {mayChange && (
            <IconButton label={texts.takeThisViewAs} quiet onClick={() => void takeStill()}>
              <Camera size={14} />
            </IconButton>
          )}
        </div>
        {kindOf(item).content === 'members' && (
          <Button look="brass" onClick={() => onOpenPack(item.id)}>
            {texts.openThePackItem(item.members)}
          </Button>
        )}
        <dl className="grid grid-cols-2 gap-x-4 gap-y-0.5 px-1 text-[12px] text-muted">
          <Fact name={item.kind} value={texts.framesAt(facts.frameCount, facts.fps)} />
          {/* of a single frame there is nothing more to say */}
          {facts.frameCount > 1 && (
            <>
              <Fact name={texts.travel} value={facts.inPlace ? texts.onTheSpot : texts.metres(facts.travelM)} />
              <Fact
                name={texts.seam}
                value={facts.loops ? texts.loops(facts.seamDeg) : texts.degreesApart(facts.seamDeg)}
              />
              <Fact name={texts.plants} value={texts.supportOf(facts.support.left, facts.support.right)} />
              <Fact name={facts.steps === 0 && facts.tempo ? texts.tempo : texts.steps} value={stepWords(facts)} />
              <Fact name={texts.turns} value={texts.degrees(facts.turnDeg ?? 0)} />
              <Fact name={texts.noise} value={facts.noiseDeg ? texts.fineDegrees(facts.noiseDeg) : texts.none} />
            </>
          )}
          <Fact name={texts.from} value={origin(item)} />
        </dl>
        <ReadingPanel
          // drawings ask nothing of a body
          reading={reading && kindOf(item).onOwn ? { ...reading, fit: undefined } : reading}
          closed={closed}
          tags={item.tags}
          performerName={performer?.name}
          onAccept={(words) => set({ tags: [...item.tags, ...words] }, texts.addedTo(words.join(', '), item.name))}
        />
        <div className="flex flex-col gap-1.5">
          <Row name={texts.tags}>
            <KeptInput
              aria-label={texts.tagsSeparatedByCommas}
              placeholder={texts.separatedByCommas}
              value={item.tags.join(', ')}
              title={item.tags.join(', ')}
              onKeep={(text) =>
                set(
                  {
                    tags: text
                      .split(',')
                      .map((t) => t.trim())
                      .filter(Boolean),
                  },
                  texts.changedTheTagsOf(item.name),
                )
              }
              readOnly={closed}
              className="min-w-0 py-0.5!"
            />
          </Row>
          <Row name={texts.folder}>
            <KeptInput
              aria-label={texts.folderLevelsSeparatedBy}
              placeholder={texts.noneLevelsSeparatedBy}
              list="folders"
              readOnly={closed}
              value={pathOf(folders, item.folderId)}
              title={pathOf(folders, item.folderId)}
              onKeep={(folder) => set({ folder }, texts.movedTo(item.name, folder))}
              className="min-w-0 py-0.5!"
            />
          </Row>
          <Row name={texts.note}>
            <KeptInput
              aria-label={texts.note}
              readOnly={closed}
              value={item.note}
              title={item.note}
              onKeep={(note) => set({ note }, texts.changedTheNoteOf(item.name))}
              className="min-w-0 py-0.5!"
            />
          </Row>
          <datalist id="folders">
            {folders.map((f) => (
              <option key={f.id} value={pathOf(folders, f.id)} />
            ))}
          </datalist>
        </div>
        <DescriptionFields item={item} closed={closed} onSet={set} />
        <StaleLine item={item} mayChange={!closed} />
        <UsesLine
          item={item}
          closed={closed}
          playingOn={playingOn}
          onShow={onShow}
          onOpenPack={onOpenPack}
          onPlayOn={onPlayOn}
        />
        {item.madeForName && (
          <div className="px-1">
            <SwitchRow
              label={texts.forAlone(item.madeForName)}
              checked={item.bound}
              onChange={(bound) =>
                !closed &&
                set(
                  { bound },
                  bound ? texts.boundTo(item.name, item.madeForName ?? '') : texts.setFreeForAny(item.name),
                )
              }
            >
              <Chip tone={item.bound ? 'brass' : 'plain'}>
                {item.bound ? texts.forAlone2(item.madeForName) : texts.madeForFreeFor(item.madeForName)}
              </Chip>
            </SwitchRow>
          </div>
        )}
      </div>
      <div className="flex flex-wrap gap-2 border-t border-line px-4 pt-2.5 pb-3">
        {binned ? (
          <Button look="brass" className="w-full" onClick={onBin} disabled={closed} keys={texts.del}>
            <ArchiveRestore size={14} /> {texts.restore}
          </Button>
        ) : (
          <Button
            look="brass"
            className="w-full"
            onClick={onFit}
            keys="F"
            hint={keepsDrawings ? texts.chooseWhichOfThese : texts.openFittingWithThis}
          >
            <span className="truncate">{keepsDrawings ? texts.addToAFigure : texts.fitTo(performer?.name)}</span>
          </Button>
        )}
        <Button onClick={onExport} keys="E" hint={texts.saveAsBvhOr}>
          <Download size={14} /> {texts.exportIt}
        </Button>
        <Button onClick={onChange} disabled={!mayChange} keys="C" hint={texts.mirrorLoopTrimSmooth}>
          <Wand size={14} /> {texts.change}
        </Button>
        <Button onClick={onLike} keys="M" hint={texts.findMotionsThatMove} aria-label={texts.moreLikeThis}>
          <ScanSearch size={14} />
        </Button>
        <Button onClick={onPose} keys="N" hint={texts.findMotionsThatPass} aria-label={texts.posesLikeThisFrame}>
          <PersonStanding size={14} />
        </Button>
        <Button onClick={onHold} keys="P" hint={texts.keepItInThe} aria-label={texts.pickUp}>
          <Hand size={14} />
        </Button>
        {!binned && (
          <Button
            onClick={onBin}
            disabled={closed}
            keys={texts.del}
            hint={texts.moveToTheBin}
            aria-label={texts.moveToTheBin}
          >
            <Archive size={14} />
          </Button>
        )}
      </div>
    </div>
  );
}

/** Steps and how many a minute; what is done over and over without steps has its tempo alone. */
function stepWords({ steps, tempo }: Item['facts']): string {
  if (!tempo) return steps === 0 ? texts.none : String(steps);
  return steps === 0 ? texts.aMinute(tempo) : texts.atAMinute(steps, tempo);
}

function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div className="flex min-w-0 gap-1.5">
      <dt className="shrink-0">{name}</dt>
      <dd className="truncate text-ink" title={value}>
        {value}
      </dd>
    </div>
  );
}
