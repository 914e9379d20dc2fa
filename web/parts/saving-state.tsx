'use client';

import type { DocumentHandle } from '@/documents/use-document';
import { Button } from '@/ui/button';
import { savingState as texts } from './texts';

const WORDS = {
  saved: 'saved',
  waiting: 'saving …',
  saving: 'saving …',
  offline: 'not saved: the server is away',
  refused: texts.notSaved,
} as const;

/** Whether what was done to a document is stored, and what can be done where it was refused. */
export function SavingState({
  document,
  mayChange,
  onlyLooking,
}: {
  document: Pick<DocumentHandle<unknown>, 'state' | 'trouble' | 'giveUp'>;
  mayChange: boolean;
  /** Said to those who may not change it. */
  onlyLooking: string;
}) {
  return (
    <>
      <span
        role="status"
        className={document.state === 'saved' || !mayChange ? 'text-muted' : 'text-brass-text'}
        title={document.trouble ?? undefined}
      >
        {mayChange ? WORDS[document.state] : onlyLooking}
      </span>
      {document.state === 'refused' && (
        <>
          <span className="text-raspberry">{document.trouble}</span>
          <Button size="tiny" onClick={document.giveUp}>
            {texts.giveItUp}
          </Button>
        </>
      )}
    </>
  );
}
