import Link from 'next/link';
import { Empty } from '@/ui/empty';
import { notFound as texts } from './texts';

/** An address that leads nowhere. */
export default function NotFound() {
  return (
    <Empty
      title={texts.pageNotFound}
      action={
        <Link
          href="/library"
          className="rounded-md border border-brass bg-brass px-3 py-1.5 font-medium text-brass-ink"
        >
          {texts.toTheLibrary}
        </Link>
      }
    >
      {texts.theAddressMayBe}
    </Empty>
  );
}
