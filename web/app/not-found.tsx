import Link from 'next/link';
import { Empty } from '@/ui/empty';

/** An address that leads nowhere. */
export default function NotFound() {
  return (
    <Empty
      title="Page not found"
      action={
        <Link
          href="/library"
          className="rounded-md border border-brass bg-brass px-3 py-1.5 font-medium text-brass-ink"
        >
          To the library
        </Link>
      }
    >
      The address may be mistyped, or what it showed has moved. Nothing is lost: deleted items are in the bin.
    </Empty>
  );
}
