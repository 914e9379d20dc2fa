'use client';

import { parseAsInteger, parseAsString, useQueryStates } from 'nuqs';
import { useState } from 'react';
import { useKeys } from '@/client/keys';
import { useCast, useCastRig, useItems, useRig } from '@/client/queries';
import type { CastMember, Item } from '@/contract';
import { Clock } from '@/stage/clock';
import { SoloStage, useShown } from '@/stage/solo-stage';
import { Transport } from '@/stage/transport';
import { ContactSheet } from './contact-sheet';
import { galleryPlace as texts } from './texts';

/** Every motion of the library on every cast member: a sheet of solved poses each, and all of one motion playing in step. */
export function GalleryPlace() {
  const [view, setView] = useQueryStates({
    play: parseAsString,
    from: parseAsInteger.withDefault(0),
    count: parseAsInteger.withDefault(200),
  });
  const cast = useCast();
  const list = useItems({});
  const items = (list.data?.items ?? []).filter((i) => i.provenance.how === 'intake');
  const members = cast.data ?? [];
  const playing = items.find((i) => i.id === view.play);
  const [clock] = useState(() => new Clock());
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('escape', () => void setView({ play: null }));
  return (
    <div className="flex h-full flex-col">
      {playing && (
        <section aria-label={texts.playing} className="border-b border-line">
          <div className="flex h-[380px]">
            {members.map((m) => (
              <Played key={m.id} clock={clock} item={playing} member={m} />
            ))}
          </div>
          <div className="px-4 py-1">
            <Transport clock={clock} />
          </div>
        </section>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
        <h1 className="heading mb-2 text-lg">{texts.galleryMotionsOnCharacter(items.length, members.length)}</h1>
        {items.slice(view.from, view.from + view.count).map((item) => (
          <section key={item.id} className="mb-3 border-b border-line pb-2" data-sheet={item.name}>
            <button
              type="button"
              className="font-semibold hover:text-brass-text"
              onClick={() => void setView({ play: item.id })}
            >
              {item.name} · {item.facts.frameCount} f
            </button>
            {members.map((m) => (
              <Sheet key={m.id} item={item} member={m} />
            ))}
          </section>
        ))}
      </div>
    </div>
  );
}

function Sheet({ item, member }: { item: Item; member: CastMember }) {
  const source = useRig(item.rigId);
  const target = useCastRig(member.id);
  const { motion, error } = useShown(item, source.data, target.data);
  if (error)
    return (
      <p className="text-raspberry">
        {member.name}: {error.message}
      </p>
    );
  return <ContactSheet name={member.name} rig={target.data} motion={motion} />;
}

function Played({ clock, item, member }: { clock: Clock; item: Item; member: CastMember }) {
  const source = useRig(item.rigId);
  const target = useCastRig(member.id);
  const { motion } = useShown(item, source.data, target.data);
  return (
    <div className="min-w-0 flex-1">
      {target.data && (
        <SoloStage
          clock={clock}
          member={member}
          rig={target.data}
          motion={motion}
          label={texts.on(item.name, member.name)}
        />
      )}
    </div>
  );
}
