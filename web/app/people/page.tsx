import { Suspense } from 'react';
import { PeoplePlace } from '@/places/people/people-place';

export default function Page() {
  return (
    <Suspense>
      <PeoplePlace />
    </Suspense>
  );
}
