import { notFound } from 'next/navigation';
import { Suspense } from 'react';
import { GalleryPlace } from '@/places/gallery/gallery-place';

export const dynamic = 'force-dynamic';

/** For those who build it: every motion on every character at one glance. Not there in a built application. */
export default function Page() {
  if (process.env.NODE_ENV !== 'development' && process.env.VELVET_GALLERY !== '1') notFound();
  return (
    <Suspense>
      <GalleryPlace />
    </Suspense>
  );
}
