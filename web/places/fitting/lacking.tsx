'use client';

import { useRouter } from 'next/navigation';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';

interface LackingProps {
  what: 'motion' | 'cast' | 'item' | 'member';
  why: string;
  onOther: () => void;
}

/** What stands here while something is missing that a fitting needs, with the way to it. */
export function Lacking({ what, why, onOther }: LackingProps) {
  const router = useRouter();
  if (what === 'item')
    return (
      <Empty title="This motion no longer exists" action={<Button onClick={onOther}>Choose another</Button>}>
        {why}
      </Empty>
    );
  if (what === 'member')
    return (
      <Empty
        title="Choose a character first"
        action={
          <Button look="brass" onClick={() => router.push('/cast')}>
            To the cast
          </Button>
        }
      >
        Put a cast member on hand to fit motions to it here.
      </Empty>
    );
  return (
    <Empty
      title="A fitting needs a motion and a character"
      action={
        <Button look="brass" onClick={() => router.push('/intake')}>
          Bring files in
        </Button>
      }
    >
      {what === 'motion' ? 'The library is empty' : 'The cast is empty'}. Drop a BVH, GLB or glTF file at Intake.
    </Empty>
  );
}
