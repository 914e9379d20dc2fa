import { Suspense } from 'react';
import { InterfacePlace } from '@/places/interface/interface-place';

export default function Page() {
  return (
    <Suspense>
      <InterfacePlace />
    </Suspense>
  );
}
