import type { Motion } from '@velvet-reel/motion';
import { useMemo } from 'react';
import type { CastMember, RigAnswer } from '@/contract';
import { useFigure } from '@/stage/figures';
import { rigView } from '@/stage/rig-view';

/** Face shapes of a member's mesh, and what other numbers its motion holds, by name. */
export function useNumbers(rig: RigAnswer, who: CastMember, { numbers }: Motion): string[] {
  const figure = useFigure(rigView(rig), who.assets);
  return useMemo(() => {
    const shapes = (figure?.faces ?? []).flatMap((f) => Object.keys(f.morphTargetDictionary ?? {}));
    return [...new Set([...shapes, ...numbers.map((t) => t.name)])].sort();
  }, [figure, numbers]);
}
