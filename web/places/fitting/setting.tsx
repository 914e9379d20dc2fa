import { RotateCcw } from 'lucide-react';
import type { ReactNode } from 'react';
import { IconButton } from '@/ui/button';
import { setting as texts } from './texts';

/** One thing that is set, under its heading, with a way back where it was changed. */
export function Setting({
  title,
  changed = false,
  onReset,
  children,
}: {
  title: string;
  changed?: boolean;
  onReset?: () => void;
  children: ReactNode;
}) {
  return (
    <section className="mb-3">
      <h2 className="mb-1 flex h-5 items-center gap-2 text-[12px] font-semibold text-muted">
        {title}
        {changed && (
          <>
            <span className="text-brass-text">{texts.changed}</span>
            <IconButton label={texts.reset(title.toLowerCase())} onClick={() => onReset?.()} quiet>
              <RotateCcw size={12} />
            </IconButton>
          </>
        )}
      </h2>
      {children}
    </section>
  );
}
