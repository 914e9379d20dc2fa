'use client';

import { slotLabel } from '@velvet-reel/motion';
import { Archive, ArchiveRestore } from 'lucide-react';
import { useChangeCast } from '@/client/queries';
import type { CastMember } from '@/client/types';
import { Button } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { mapSummary } from './map-summary';

const REST: Record<string, string> = {
  T: 'T: arms level',
  A: 'A: arms slanting',
  hanging: 'arms hanging',
  other: 'another pose',
};

interface MemberPanelProps {
  member: CastMember;
  performer: boolean;
  onPerformer: () => void;
  onBin: () => void;
}

export function MemberPanel({ member, performer, onPerformer, onBin }: MemberPanelProps) {
  const change = useChangeCast();
  const open = Object.entries(member.map.slots).filter(([, s]) => s.state === 'guessed' || s.state === 'missing');
  const rows: [string, string][] = [
    ['Height', `${member.heightM.toFixed(2)} m`],
    ['Joints', String(member.jointCount)],
    ['Mesh', member.vertexCount > 0 ? `${member.vertexCount.toLocaleString('en')} vertices` : 'none; shown as bones'],
    ['Rest pose', REST[member.restKind] ?? member.restKind],
    ['Units found', member.found.unitWhy],
    ['Axes found', `${member.found.upAxis} up, facing ${member.found.facing}`],
    ['Body map', mapSummary(member).text.replace('map: ', '')],
  ];
  return (
    <aside className="flex w-[300px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-line bg-panel p-4">
      <KeptInput
        aria-label="Name"
        value={member.name}
        onKeep={(name) =>
          name && change.mutate({ id: member.id, change: { name }, label: `Renamed ${member.name} to ${name}` })
        }
        className="heading w-full border-transparent! bg-transparent! px-1! py-0! text-xl hover:border-line!"
      />
      <KeptInput
        aria-label="Note"
        placeholder="Note"
        value={member.note}
        onKeep={(note) =>
          change.mutate({ id: member.id, change: { note }, label: `Changed the note of ${member.name}` })
        }
        className="w-full"
      />
      <dl className="flex flex-col gap-2">
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt className="text-[11.5px] text-muted">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      {open.length > 0 && (
        <div className="rounded-lg border border-line bg-raised p-2.5">
          <p className="mb-1 font-medium">Worth a look</p>
          <ul className="flex flex-col gap-1 text-[12px] text-muted">
            {open.slice(0, 8).map(([slot, s]) => (
              <li key={slot}>
                <span className="text-ink">{slotLabel(slot)}</span> {s.state}: {s.why}
              </li>
            ))}
          </ul>
        </div>
      )}
      <div className="mt-auto flex flex-wrap gap-2 pt-2">
        <Button
          look={performer ? 'plain' : 'brass'}
          onClick={onPerformer}
          disabled={performer || member.binnedAt !== null}
          keys="H"
          hint="Show everything on this one"
        >
          {performer ? 'Is on hand' : 'Put on hand'}
        </Button>
        <Button
          onClick={onBin}
          hint={member.binnedAt ? 'Bring back from the bin' : 'Move to the bin'}
          aria-label={member.binnedAt ? 'Bring back' : 'Move to the bin'}
        >
          {member.binnedAt ? <ArchiveRestore size={14} /> : <Archive size={14} />}
        </Button>
      </div>
    </aside>
  );
}
