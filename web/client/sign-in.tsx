'use client';

import { type FormEvent, useState } from 'react';
import { Button } from '@/ui/button';
import { Field, inputLook } from '@/ui/field';
import { sendJson } from './api';
import type { Door } from './session';

/** The way in: address and password; in the demo world its people to choose from; in an empty library the first account. */
export function SignIn({ door, onIn }: { door: Door; onIn: () => void }) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const enter = async (body: unknown): Promise<void> => {
    setBusy(true);
    setError(null);
    try {
      await sendJson('POST', '/api/session', body);
      onIn();
    } catch (e) {
      setError((e as Error).message);
      setBusy(false);
    }
  };
  const submit = (e: FormEvent<HTMLFormElement>): void => {
    e.preventDefault();
    const form = Object.fromEntries(new FormData(e.currentTarget));
    void enter(door.first ? { first: form } : form);
  };
  const demo = door.demo ?? [];
  return (
    <main className="stage-back flex h-screen items-center justify-center overflow-auto p-8">
      <div className="flex w-full max-w-3xl items-stretch gap-10">
        <div className="flex flex-1 flex-col justify-center">
          <h1 className="heading text-4xl italic">
            Velvet<span className="text-brass">·</span>Reel
          </h1>
          <p className="mt-3 text-[14px] text-muted">
            A shared library of motion. Every take is a strip that you can read, play on your performer and fit to any
            character.
          </p>
          {demo.length > 0 && (
            <section aria-label="Demo accounts" className="mt-7">
              <p className="mb-2 text-muted">The demo world of the Saltmarsh Ferry. Sign in as</p>
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
        <form onSubmit={submit} className="flex w-80 flex-col gap-3 rounded-xl border border-line bg-panel p-6">
          <h2 className="heading text-lg">{door.first ? 'The first account' : 'Sign in'}</h2>
          {door.first && (
            <p className="text-muted">
              No one has an account yet. This first one is the admin’s, who can then add everybody else.
            </p>
          )}
          {door.first && (
            <Field label="Set-up code">
              <input name="code" required maxLength={40} autoComplete="one-time-code" className={inputLook} />
              <span className="text-[11.5px] text-muted">Shown where the application was started</span>
            </Field>
          )}
          {door.first && (
            <Field label="Name">
              <input name="name" required maxLength={120} autoComplete="name" className={inputLook} />
            </Field>
          )}
          <Field label="E-mail address">
            <input name="email" type="email" required autoComplete="username" className={inputLook} />
          </Field>
          <Field label={door.first ? 'Password, at least 10 characters' : 'Password'}>
            <input
              name="password"
              type="password"
              required
              minLength={door.first ? 10 : 1}
              autoComplete={door.first ? 'new-password' : 'current-password'}
              className={inputLook}
            />
          </Field>
          {error && (
            <p role="alert" className="rounded-md border border-raspberry p-2 text-raspberry">
              {error}
            </p>
          )}
          <Button look={demo.length > 0 ? 'plain' : 'brass'} type="submit" disabled={busy} className="mt-1">
            {busy ? 'Signing in …' : door.first ? 'Create it and sign in' : 'Sign in'}
          </Button>
        </form>
      </div>
    </main>
  );
}
