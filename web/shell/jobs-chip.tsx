'use client';

import Link from 'next/link';
import { useJobs } from '@/client/queries';
import { jobsChip as texts } from './texts';

/** Long work that is going on, from everywhere. */
export function JobsChip() {
  const { data: jobs = [] } = useJobs();
  const open = jobs.filter((j) => j.state === 'queued');
  if (open.length === 0) return null;
  const done = open.reduce((s, j) => s + j.counts.done + j.counts.refused, 0);
  const all = open.reduce((s, j) => s + Object.values(j.counts).reduce((a, b) => a + b, 0), 0);
  return (
    <Link
      href={`/intake?job=${open[0]!.id}`}
      className="mr-2 flex items-center gap-2 rounded-full border border-line px-2.5 py-0.5 text-muted hover:text-ink"
      title={open.map((j) => j.title).join(', ')}
    >
      <span className="h-1 w-16 overflow-hidden rounded bg-raised">
        <span className="block h-full bg-brass" style={{ width: `${(100 * done) / Math.max(1, all)}%` }} />
      </span>
      {texts.ofIt(done, all)}
    </Link>
  );
}
