import { Suspense } from 'react';
import { IntakePlace } from '@/places/intake/intake-place';

export default function Page() {
  return (
    <Suspense>
      <IntakePlace />
    </Suspense>
  );
}
