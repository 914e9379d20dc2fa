'use client';

import { useEffect, useState } from 'react';

/** Counts up when the theme changes, so that canvases are drawn anew. */
export function useThemeVersion(): number {
  const [version, setVersion] = useState(0);
  useEffect(() => {
    const changed = (): void => setVersion((n) => n + 1);
    window.addEventListener('velvet-theme', changed);
    return () => window.removeEventListener('velvet-theme', changed);
  }, []);
  return version;
}
