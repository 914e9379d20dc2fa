import { Suspense } from 'react';
import { ReelsPlace } from '@/places/reels/reels-place';

export default function Page() {
  return (
    <Suspense>
      <ReelsPlace />
    </Suspense>
  );
}
