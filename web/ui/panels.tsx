'use client';

import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';

export { Panel };

interface PanelsProps {
  /** Under which its sizes are remembered. */
  id: string;
  /** Panels stand on each other instead of beside each other. */
  upright?: boolean;
  className?: string;
  /** Panels, each with an id, with an Edge between two of them. */
  children: ReactNode;
}

/** Panels whose sizes people set, remembered by the browser. */
export function Panels({ id, upright = false, className, children }: PanelsProps) {
  const { defaultLayout, onLayoutChanged } = useDefaultLayout({
    id: `velvet-${id}`,
    onlySaveAfterUserInteractions: true,
  });
  return (
    <Group
      id={id}
      orientation={upright ? 'vertical' : 'horizontal'}
      defaultLayout={defaultLayout}
      onLayoutChanged={onLayoutChanged}
      className={className}
    >
      {children}
    </Group>
  );
}

/** Between two panels: dragged, moved by the arrow keys, a double-click goes back to the usual sizes. */
export function Edge({ label, upright = false }: { label: string; upright?: boolean }) {
  return (
    <Separator
      aria-label={label}
      className={clsx(
        'shrink-0 bg-line outline-none transition-colors duration-100 hover:bg-brass focus-visible:bg-brass data-[separator=active]:bg-brass',
        upright ? 'h-px' : 'w-px',
      )}
    />
  );
}
