'use client';

import { type FormEvent, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { passwordDialog as texts } from './texts';

/** One's own password: the old one, and twice the new one. */
export function PasswordDialog({ onClose }: { onClose: () => void }) {
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const submit = async (e: FormEvent<HTMLFormElement>): Promise<void> => {
    e.preventDefault();
    const form = new FormData(e.currentTarget);
    const [old, fresh, again] = ['old', 'new', 'again'].map((k) => String(form.get(k) ?? ''));
    if (fresh !== again) return setError(texts.theTwoNewPasswords);
    setBusy(true);
    try {
      await sendJson('PUT', `${API}/me/password`, { old, password: fresh });
      toast(texts.yourPasswordIsChanged);
      onClose();
    } catch (problem) {
      setError((problem as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={texts.changeYourPassword}
      about={texts.signsYouOutEverywhere}
    >
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-3">
        <Field label={texts.oldPassword}>
          <input name="old" type="password" required autoComplete="current-password" className={inputLook} />
        </Field>
        <Field label={texts.newPasswordAtLeast}>
          <input name="new" type="password" required minLength={10} autoComplete="new-password" className={inputLook} />
        </Field>
        <Field label={texts.newPasswordAgain}>
          <input name="again" type="password" required autoComplete="new-password" className={inputLook} />
        </Field>
        {error && (
          <p role="alert" className="rounded-md border border-raspberry p-2 text-raspberry">
            {error}
          </p>
        )}
        <Button type="submit" look="brass" disabled={busy} className="self-end">
          {texts.changeIt}
        </Button>
      </form>
    </Dialog>
  );
}
