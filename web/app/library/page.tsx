import { Suspense } from 'react';
import { LibraryPlace } from '@/places/library/library-place';

export default function Page() {
  return (
    <Suspense>
      <LibraryPlace />
    </Suspense>
  );
}
