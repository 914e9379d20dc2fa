'use client';

import { type FormEvent, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';

/** One's own password: the old one, and twice the new one. */
export function PasswordDialog({ onClose }: { onClose: () => void }) {
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const submit = async (e: FormEvent<HTMLFormElement>): Promise<void> => {
    e.preventDefault();
    const form = new FormData(e.currentTarget);
    const [old, fresh, again] = ['old', 'new', 'again'].map((k) => String(form.get(k) ?? ''));
    if (fresh !== again) return setError('The two new passwords differ.');
    setBusy(true);
    try {
      await sendJson('PUT', `${API}/me/password`, { old, password: fresh });
      toast('Your password is changed. You are signed out everywhere else, and your keys for programs have ended.');
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
      title="Change your password"
      about="Signs you out everywhere else and ends your keys for programs."
    >
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-3">
        <Field label="Old password">
          <input name="old" type="password" required autoComplete="current-password" className={inputLook} />
        </Field>
        <Field label="New password, at least 10 characters">
          <input name="new" type="password" required minLength={10} autoComplete="new-password" className={inputLook} />
        </Field>
        <Field label="New password again">
          <input name="again" type="password" required autoComplete="new-password" className={inputLook} />
        </Field>
        {error && (
          <p role="alert" className="rounded-md border border-raspberry p-2 text-raspberry">
            {error}
          </p>
        )}
        <Button type="submit" look="brass" disabled={busy} className="self-end">
          Change it
        </Button>
      </form>
    </Dialog>
  );
}
