'use client';

import { useEffect, useState } from 'react';

/** The value as it was once it has stood still for so long, milliseconds: what is typed is not asked for key by key. */
export function useLater<T>(value: T, ms: number): T {
  const [later, setLater] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setLater(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return later;
}
