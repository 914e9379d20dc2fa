'use client';

import { Dialog } from '@/ui/dialog';
import { helpSheet as texts } from './texts';

const GROUPS: [string, [string, string][]][] = [
  [
    texts.everywhere,
    [
      ['Ctrl K', texts.findOrDoAnything],
      ['Alt 1 … 5', texts.libraryCastFittingReels],
      ['Ctrl Z', texts.undoTheLastChange],
      ['Ctrl Shift Z', texts.redoIt],
      ['?', texts.thisSheet],
    ],
  ],
  [
    texts.onAStage,
    [
      ['Space', texts.playOrPause],
      [', and .', texts.oneFrameBackOr],
      ['L', texts.loopOrPlayOnce],
      ['drag', texts.turnTheView],
      ['wheel', texts.zoomInOrOut],
      [texts.rightDrag, texts.panTheView],
    ],
  ],
  [
    texts.library,
    [
      ['/', 'search'],
      [texts.esc, texts.clearTheSelectionThen],
      ['↑ ↓', 'go to another item'],
      ['Shift, Ctrl', 'with a click: select a range, or one more'],
      ['Ctrl A', texts.selectEverythingFound],
      ['1 2 3', 'strips, table, tiles'],
      ['R', texts.playEverythingListed],
      ['B', texts.compareTheSelectedItems],
      ['H', texts.addToOrRemove],
      ['V', texts.versionsAndHistory],
      ['Alt Shift 0…5', 'stars'],
      ['F', texts.fitTheItemTo],
      ['P', texts.keepTheItemIn],
      ['C', texts.changeTheItemInto],
      ['M', texts.findMotionsThatMove],
      ['N', texts.findMotionsThatPass],
      ['E', 'export'],
      [texts.del, texts.moveToTheBin],
    ],
  ],
  [
    texts.cast,
    [
      ['← →', texts.anotherCastMember],
      ['H', texts.putOnHand],
      ['J', 'mesh, joints, both'],
      ['X', texts.axesOfTheJoints],
      ['N', texts.namesOfTheJoints],
    ],
  ],
  [
    texts.fitting,
    [
      ['K', texts.keepTheResultAs],
      ['M', 'fit many: a folder, a pack, several characters'],
      ['E', texts.exportTheResult],
      ['B', texts.theResultBeforeThe],
      ['O', texts.sideBySideOr],
      ['Y', 'trails'],
      ['G', 'ghosts'],
      ['1 … 5', texts.troublePlantsGoalsBy],
      ['T', texts.moveOrTurnWhat],
      ['← →', 'on a plant or key: one frame; Shift its end, Alt its start'],
      [texts.del, 'on a plant or key: remove it'],
    ],
  ],
  [
    texts.reels,
    [
      ['1 2 3', texts.libraryWhatIsChosen],
      ['← →', 'on an item or key: one frame; Shift its end, Alt its start'],
      ['S', texts.cutWhatIsChosen],
      ['D', texts.copyWhatIsChosen],
      [texts.del, texts.removeWhatIsChosen],
      ['N', 'on a join: find where both meet best'],
      ['J', 'on a join: bring it into view'],
      ['F', texts.theWholeReelIn],
      ['= and −', 'zoom in or out; Ctrl with the wheel, too'],
      ['[ and ]', texts.aRangeBeginsOr],
      ['A', 'mark the playhead'],
      ['G', 'ghosts'],
      ['T', texts.moveOrTurnWhat],
      ['K', texts.bakeIntoAnItem],
    ],
  ],
];

export function HelpSheet({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={texts.keys} width={700}>
      <div className="grid grid-cols-2 gap-x-8 gap-y-5">
        {GROUPS.map(([title, rows]) => (
          <section key={title}>
            <h3 className="mb-1.5 font-semibold">{title}</h3>
            <dl className="grid grid-cols-[92px_1fr] gap-y-1">
              {rows.map(([key, what]) => (
                <div key={key} className="contents">
                  <dt>
                    <kbd className="rounded border border-line bg-raised px-1.5 py-px font-sans text-[12px]">{key}</kbd>
                  </dt>
                  <dd className="text-muted">{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  );
}
