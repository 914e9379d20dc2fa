import { Suspense } from 'react';
import { CastPlace } from '@/places/cast/cast-place';

export default function Page() {
  return (
    <Suspense>
      <CastPlace />
    </Suspense>
  );
}
