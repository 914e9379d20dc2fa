'use client';

import { useRouter } from 'next/navigation';
import { Popover } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { create } from 'zustand';
import { useCast, useItems } from '@/client/queries';
import { useDemoWorld } from '@/client/session';
import { Button } from '@/ui/button';
import { opening as texts } from './texts';

const KEY = 'velvet-opening';

interface OpeningStore {
  /** Which step is shown; null where it is not. */
  step: number | null;
  go: (step: number | null) => void;
}

/** The first minute: what is shown of it in this window. */
export const useOpening = create<OpeningStore>((set) => ({
  step: null,
  go: (step) => {
    set({ step });
    if (step === null) localStorage.setItem(KEY, 'seen');
  },
}));

const STEPS = [
  {
    at: '[role=listbox] [role=option]',
    side: 'bottom',
    title: texts.readAStrip,
    text: texts.everyMotionIsA,
  },
  {
    at: 'section[aria-label="Stage"]',
    side: 'right',
    title: texts.putItOnSomebody,
    text: texts.thisIsFittingThe,
  },
  {
    at: 'section[aria-label="Trouble lanes"]',
    side: 'left',
    title: texts.seeWhatIsWrong,
    text: texts.eachLaneMeasuresOne,
  },
] as const;

/** A motion that needs mending on a body that differs. */
const MOTION = 'Crate lift and carry';
const CHARACTER = 'Big Tove';

/** Three pointed steps through the job, for whoever sees the demo world for the first time; found again in the account menu. */
export function Opening() {
  const demo = useDemoWorld();
  const { step, go } = useOpening();
  const router = useRouter();
  useEffect(() => {
    if (demo && localStorage.getItem(KEY) === null) go(0);
  }, [demo, go]);
  const shown = step === null ? undefined : STEPS[step];
  const target = useTarget(shown?.at);
  const items = useItems({ q: `"${MOTION}"` }, 1);
  const cast = useCast();
  if (step === null || !shown || !target) return null;
  const next = (): void => {
    if (step === 0) {
      const item = items.data?.items[0];
      const member = cast.data?.find((c) => c.name === CHARACTER);
      router.push(
        `/fitting?${new URLSearchParams({ ...(item && { item: item.id }), ...(member && { cast: member.id }) })}`,
      );
    }
    go(step + 1 < STEPS.length ? step + 1 : null);
  };
  return (
    <>
      <div
        aria-hidden
        className="pointer-events-none fixed z-40 rounded-lg outline-2 outline-offset-2 outline-brass"
        style={{ left: target.x, top: target.y, width: target.width, height: target.height }}
      />
      <Popover.Root open>
        <Popover.Anchor virtualRef={{ current: { getBoundingClientRect: () => target } }} />
        <Popover.Portal>
          <Popover.Content
            side={shown.side}
            sideOffset={12}
            collisionPadding={12}
            aria-label={shown.title}
            onOpenAutoFocus={(e) => e.preventDefault()}
            onInteractOutside={(e) => e.preventDefault()}
            onEscapeKeyDown={() => go(null)}
            className="z-50 w-80 rounded-xl border border-brass bg-panel p-4 shadow-2xl"
          >
            <p className="text-[11.5px] text-muted">{texts.firstStepsOf(step + 1, STEPS.length)}</p>
            <h2 className="heading mt-0.5 text-lg">{shown.title}</h2>
            <p className="mt-1.5 text-muted">{shown.text}</p>
            <div className="mt-3 flex justify-between gap-2">
              <Button look="quiet" onClick={() => go(null)}>
                {texts.skip}
              </Button>
              <Button look="brass" onClick={next}>
                {step === 0 ? texts.putOneOnBig : step === STEPS.length - 1 ? texts.done : texts.next}
              </Button>
            </div>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </>
  );
}

const LOOK_MS = 250;

/** Where an element stands, once it is there; looked at again and again, for places move while they load. */
function useTarget(selector: string | undefined): DOMRect | undefined {
  const [rect, setRect] = useState<DOMRect>();
  const last = useRef('');
  useEffect(() => {
    setRect(undefined);
    last.current = '';
    if (!selector) return;
    const look = (): void => {
      const found = document.querySelector(selector)?.getBoundingClientRect();
      const key = found ? `${found.x} ${found.y} ${found.width} ${found.height}` : '';
      if (key === last.current) return;
      last.current = key;
      setRect(found && found.width > 0 ? found : undefined);
    };
    look();
    const timer = setInterval(look, LOOK_MS);
    return () => clearInterval(timer);
  }, [selector]);
  return rect;
}
