'use client';

import { Dialog } from '@/ui/dialog';

const GROUPS: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['Ctrl K', 'find or do anything'],
      ['Alt 1 … 4', 'Library, Cast, Fitting, Intake'],
      ['Ctrl Z', 'undo the last change'],
      ['Ctrl Shift Z', 'do it again'],
      ['?', 'this sheet'],
    ],
  ],
  [
    'On a stage',
    [
      ['Space', 'play or pause'],
      [', and .', 'one frame back, one frame on'],
      ['L', 'round and round, or once'],
      ['drag', 'turn the view'],
      ['wheel', 'nearer, farther'],
      ['right drag', 'shift the view'],
    ],
  ],
  [
    'Library',
    [
      ['/', 'search'],
      ['Esc', 'choose one, then show everything again'],
      ['↑ ↓', 'choose another item'],
      ['Shift, Ctrl', 'with a click: a stretch, one more'],
      ['Ctrl A', 'choose everything that is found'],
      ['1 2 3', 'strips, table, tiles'],
      ['R', 'play through what is listed'],
      ['B', 'chosen items side by side'],
      ['H', 'a favourite'],
      ['V', 'versions and history'],
      ['Alt Shift 0…5', 'stars'],
      ['F', 'fit the item to the performer'],
      ['P', 'pick the item up into the tray'],
      ['C', 'change the item into a new one'],
      ['M', 'show what moves like the item'],
      ['N', 'show what has the pose on the stage'],
      ['E', 'export'],
      ['Del', 'move to the bin'],
    ],
  ],
  [
    'Cast',
    [
      ['← →', 'another cast member'],
      ['H', 'put on hand'],
      ['J', 'mesh, joints, both'],
      ['X', 'axes of the joints'],
      ['N', 'names of the joints'],
    ],
  ],
  [
    'Fitting',
    [
      ['K', 'keep the result as a new item'],
      ['M', 'the same for many: a folder, a pack, several characters'],
      ['E', 'export the result'],
      ['B', 'the result before the last step'],
      ['O', 'side by side, or laid over each other'],
      ['Y', 'trails'],
      ['G', 'ghosts'],
      ['1 … 5', 'trouble, plants, goals, by hand, curves'],
      ['T', 'move or turn what is held'],
      ['← →', 'on a plant or key: one frame; Shift its end, Alt its start'],
      ['Del', 'on a plant or key: take it away'],
    ],
  ],
];

export function HelpSheet({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Keys" width={700}>
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
