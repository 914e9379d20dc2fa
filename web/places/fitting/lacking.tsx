'use client';

import { useRouter } from 'next/navigation';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { lacking as texts } from './texts';

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
      <Empty title={texts.thisMotionNoLonger} action={<Button onClick={onOther}>{texts.chooseAnother}</Button>}>
        {why}
      </Empty>
    );
  if (what === 'member')
    return (
      <Empty
        title={texts.chooseACharacterFirst}
        action={
          <Button look="brass" onClick={() => router.push('/cast')}>
            {texts.toTheCast}
          </Button>
        }
      >
        {texts.putACastMember}
      </Empty>
    );
  return (
    <Empty
      title={texts.aFittingNeedsA}
      action={
        <Button look="brass" onClick={() => router.push('/intake')}>
          {texts.bringFilesIn}
        </Button>
      }
    >
      {what === 'motion' ? texts.theLibraryIsEmpty : texts.theCastIsEmpty}
      {texts.dropABvhGlb}
    </Empty>
  );
}
