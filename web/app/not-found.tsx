import Link from 'next/link';
import { Empty } from '@/ui/empty';

/** An address that leads nowhere. */
export default function NotFound() {
  return (
    <Empty
      title="There is nothing at this address"
      action={
        <Link
          href="/library"
          className="rounded-md border border-brass bg-brass px-3 py-1.5 font-medium text-brass-ink"
        >
          To the library
        </Link>
      }
    >
      It may have been mistyped, or what it showed is called otherwise now. Nothing was lost: what was deleted waits in
      the bin.
    </Empty>
  );
}
