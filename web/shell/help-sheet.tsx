'use client';

import { Dialog } from '@/ui/dialog';
import { helpSheet as texts } from './texts';

const GROUPS: [string, [string, string][]][] = [
  [
    texts.everywhere,
    [
      ['Ctrl K', 'find or do anything'],
      ['Alt 1 … 5', texts.libraryCastFittingReels],
      ['Ctrl Z', 'undo the last change'],
      ['Ctrl Shift Z', 'redo it'],
      ['?', 'this sheet'],
    ],
  ],
  [
    texts.onAStage,
    [
      ['Space', 'play or pause'],
      [', and .', 'one frame back or forward'],
      ['L', 'loop, or play once'],
      ['drag', 'turn the view'],
      ['wheel', 'zoom in or out'],
      ['right drag', 'pan the view'],
    ],
  ],
  [
    texts.library,
    [
      ['/', 'search'],
      [texts.esc, 'clear the selection, then the search'],
      ['↑ ↓', 'go to another item'],
      ['Shift, Ctrl', 'with a click: select a range, or one more'],
      ['Ctrl A', 'select everything found'],
      ['1 2 3', 'strips, table, tiles'],
      ['R', 'play everything listed'],
      ['B', 'compare the selected items'],
      ['H', 'add to or remove from favourites'],
      ['V', 'versions and history'],
      ['Alt Shift 0…5', 'stars'],
      ['F', 'fit the item to the performer'],
      ['P', 'keep the item in the tray'],
      ['C', 'change the item into a new one'],
      ['M', 'find motions that move like it'],
      ['N', 'find motions that pass through this pose'],
      ['E', 'export'],
      [texts.del, 'move to the bin'],
    ],
  ],
  [
    texts.cast,
    [
      ['← →', 'another cast member'],
      ['H', 'put on hand'],
      ['J', 'mesh, joints, both'],
      ['X', 'axes of the joints'],
      ['N', 'names of the joints'],
    ],
  ],
  [
    texts.fitting,
    [
      ['K', 'keep the result as a new item'],
      ['M', 'fit many: a folder, a pack, several characters'],
      ['E', 'export the result'],
      ['B', 'the result before the last step'],
      ['O', 'side by side or overlaid'],
      ['Y', 'trails'],
      ['G', 'ghosts'],
      ['1 … 5', 'trouble, plants, goals, by hand, curves'],
      ['T', 'move or turn what is held'],
      ['← →', 'on a plant or key: one frame; Shift its end, Alt its start'],
      [texts.del, 'on a plant or key: remove it'],
    ],
  ],
  [
    texts.reels,
    [
      ['1 2 3', 'library, what is chosen, by hand'],
      ['← →', 'on an item or key: one frame; Shift its end, Alt its start'],
      ['S', 'cut what is chosen in two at the playhead'],
      ['D', 'copy what is chosen behind it'],
      [texts.del, 'remove what is chosen'],
      ['N', 'on a join: find where both meet best'],
      ['J', 'on a join: bring it into view'],
      ['F', 'the whole reel in view'],
      ['= and −', 'zoom in or out; Ctrl with the wheel, too'],
      ['[ and ]', 'a range begins or ends at the playhead'],
      ['A', 'mark the playhead'],
      ['G', 'ghosts'],
      ['T', 'move or turn what is held'],
      ['K', 'bake into an item'],
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
