import { Suspense } from 'react';
import { ActivityPlace } from '@/places/activity/activity-place';

export default function Page() {
  return (
    <Suspense>
      <ActivityPlace />
    </Suspense>
  );
}
