'use client';

import { type FormEvent, type ReactNode, useEffect, useState } from 'react';
import { Button } from '@/ui/button';
import { Field, inputLook } from '@/ui/field';
import { sendJson } from './api';
import type { Door } from './session';
import { signIn as texts } from './texts';

interface Invited {
  code: string;
  name: string;
  role: string;
  by: string;
}

/** What stands behind the # of the address, and is gone from it at once: an invitation, or why somebody could not come in. */
function takeHash(): URLSearchParams {
  const told = new URLSearchParams(window.location.hash.slice(1));
  if (told.has('invitation') || told.has('why'))
    window.history.replaceState(null, '', window.location.pathname + window.location.search);
  return told;
}

/**
 * The way in: address and password, and a code where one is asked for; in the demo world its people to choose from; in an empty
 * library the first account; with an invitation an account of one's own; by the studio's account where one is set up.
 */
export function SignIn({ door, onIn }: { door: Door; onIn: () => void }) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const [invited, setInvited] = useState<Invited | null>(null);
  const [code, setCode] = useState(false);
  const enter = async (body: unknown): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      const answer = await sendJson<{ factor?: boolean; url?: string }>('POST', '/api/session', body);
      if (answer.url) return window.location.assign(answer.url);
      if (!answer.factor) return onIn();
      setCode(true);
    } catch (e) {
      setError((e as Error).message);
    }
    setBusy(false);
  };
  useEffect(() => {
    const told = takeHash();
    const invitation = told.get('invitation');
    setError(told.get('why'));
    if (invitation)
      sendJson<Omit<Invited, 'code'>>('POST', '/api/session', { invitation })
        .then((who) => setInvited({ code: invitation, ...who }))
        .catch((e: Error) => setError(e.message));
  }, []);
  const demo = door.demo ?? [];
  const shared = { busy, error, enter };
  return (
    <main className="stage-back flex h-screen items-center justify-center overflow-auto p-8">
      <div className="flex w-full max-w-3xl items-stretch gap-10">
        <div className="flex flex-1 flex-col justify-center">
          <h1 className="heading text-4xl italic">
            {texts.velvet}
            <span className="text-brass">·</span>
            {texts.reel}
          </h1>
          <p className="mt-3 text-[14px] text-muted">{texts.aSharedLibraryOf}</p>
          {demo.length > 0 && !invited && (
            <section aria-label={texts.demoAccounts} className="mt-7">
              <p className="mb-2 text-muted">{texts.theDemoWorldOf}</p>
              <div className="grid grid-cols-2 gap-2">
                {demo.map((p) => (
                  <button
                    key={p.email}
                    type="button"
                    disabled={busy}
                    onClick={() => void enter({ demo: p.email })}
                    className="rounded-lg border border-line bg-panel px-3 py-2 text-left hover:border-brass disabled:opacity-45"
                  >
                    <span className="block font-semibold">{p.name}</span>
                    <span className="text-[11.5px] text-muted">{p.role}</span>
                  </button>
                ))}
              </div>
            </section>
          )}
        </div>
        {code ? (
          <CodeForm {...shared} onBack={() => setCode(false)} />
        ) : invited ? (
          <AccountForm
            {...shared}
            title={texts.welcome(invited.name)}
            about={texts.invitesYouAsChoose(invited.by, invited.role)}
            name={invited.name}
            onSubmit={(form) => void enter({ invited: { ...form, code: invited.code } })}
          />
        ) : door.first ? (
          <AccountForm
            {...shared}
            title={texts.theFirstAccount}
            about={texts.noOneHasAn}
            onSubmit={(first) => void enter({ first })}
          >
            <Field label={texts.setUpCode}>
              <input name="code" required maxLength={40} autoComplete="one-time-code" className={inputLook} />
              <span className="text-[11.5px] text-muted">{texts.shownWhereTheApplication}</span>
            </Field>
          </AccountForm>
        ) : (
          <PasswordForm {...shared} quiet={demo.length > 0} studio={door.studio ?? null} />
        )}
      </div>
    </main>
  );
}

interface Shared {
  busy: boolean;
  error: string | null;
  enter: (body: unknown) => Promise<void>;
}

const formOf = (e: FormEvent<HTMLFormElement>): Record<string, string> => {
  e.preventDefault();
  return Object.fromEntries(new FormData(e.currentTarget)) as Record<string, string>;
};

function Sheet({
  title,
  about,
  error,
  onSubmit,
  children,
}: {
  title: string;
  about?: string;
  error: string | null;
  onSubmit: (form: Record<string, string>) => void;
  children: ReactNode;
}) {
  return (
    <form
      onSubmit={(e) => onSubmit(formOf(e))}
      className="flex w-80 flex-col gap-3 rounded-xl border border-line bg-panel p-6"
    >
      <h2 className="heading text-lg">{title}</h2>
      {about && <p className="text-muted">{about}</p>}
      {error && (
        <p role="alert" className="rounded-md border border-raspberry p-2 text-raspberry">
          {error}
        </p>
      )}
      {children}
    </form>
  );
}

function PasswordForm({ busy, error, enter, quiet, studio }: Shared & { quiet: boolean; studio: string | null }) {
  return (
    <Sheet title={texts.signIn} error={error} onSubmit={(form) => void enter(form)}>
      <Field label={texts.eMailAddress}>
        <input name="email" type="email" required autoComplete="username" className={inputLook} />
      </Field>
      <Field label={texts.password}>
        <input name="password" type="password" required autoComplete="current-password" className={inputLook} />
      </Field>
      <Button look={quiet ? 'plain' : 'brass'} type="submit" disabled={busy} className="mt-1">
        {busy ? texts.signingIn : texts.signIn}
      </Button>
      {studio && (
        <Button disabled={busy} onClick={() => void enter({ studio: true })}>
          {texts.signInWith(studio)}
        </Button>
      )}
    </Sheet>
  );
}

function CodeForm({ busy, error, enter, onBack }: Shared & { onBack: () => void }) {
  return (
    <Sheet
      title={texts.yourCode}
      about={texts.typeTheCodeThat}
      error={error}
      onSubmit={({ code }) => void enter({ factor: code })}
    >
      <Field label={texts.code}>
        <input name="code" required maxLength={40} autoComplete="one-time-code" className={inputLook} ref={focus} />
      </Field>
      <Button look="brass" type="submit" disabled={busy}>
        {busy ? texts.signingIn : texts.signIn}
      </Button>
      <Button onClick={onBack}>{texts.back}</Button>
    </Sheet>
  );
}

function AccountForm({
  busy,
  error,
  title,
  about,
  name,
  onSubmit,
  children,
}: Shared & {
  title: string;
  about: string;
  name?: string;
  onSubmit: (form: Record<string, string>) => void;
  children?: ReactNode;
}) {
  return (
    <Sheet title={title} about={about} error={error} onSubmit={onSubmit}>
      {children}
      <Field label={texts.name}>
        <input name="name" required maxLength={120} autoComplete="name" defaultValue={name} className={inputLook} />
      </Field>
      <Field label={texts.eMailAddress}>
        <input name="email" type="email" required autoComplete="username" className={inputLook} />
      </Field>
      <Field label={texts.passwordAtLeast10}>
        <input
          name="password"
          type="password"
          required
          minLength={10}
          autoComplete="new-password"
          className={inputLook}
        />
      </Field>
      <Button look="brass" type="submit" disabled={busy} className="mt-1">
        {busy ? texts.signingIn : texts.createItAndSign}
      </Button>
    </Sheet>
  );
}

const focus = (input: HTMLInputElement | null): void => input?.focus();
