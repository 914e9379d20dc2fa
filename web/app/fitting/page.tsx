import { Suspense } from 'react';
import { FittingPlace } from '@/places/fitting/fitting-place';

export default function Page() {
  return (
    <Suspense>
      <FittingPlace />
    </Suspense>
  );
}
