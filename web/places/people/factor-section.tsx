'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { toast } from 'sonner';
import { encode } from 'uqr';
import { API, getJson, sendJson } from '@/client/api';
import type { FactorSetup } from '@/contract';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { Section } from './section';
import { factorSection as texts } from './texts';
import { ToldOnce } from './told-once';

const PATH = `${API}/me/second-factor`;
const KEY = ['second-factor'] as const;

/** A code that changes every half minute, asked for besides the password: set up, confirmed, turned off. */
export function FactorSection() {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => getJson<{ on: boolean }>(PATH) });
  const [open, setOpen] = useState(false);
  const [setup, setSetup] = useState<FactorSetup | null>(null);
  const close = (): void => {
    setOpen(false);
    setSetup(null);
  };
  const done = (text: string): void => {
    toast(text);
    close();
    void client.invalidateQueries({ queryKey: KEY });
    void client.invalidateQueries({ queryKey: ['sessions'] });
    void client.invalidateQueries({ queryKey: ['people'] });
  };
  const submit = (run: (form: Record<string, string>) => Promise<void>) => (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = Object.fromEntries(new FormData(e.currentTarget)) as Record<string, string>;
    void run(form).catch((error: Error) => toast.error(error.message));
  };
  const on = data?.on ?? false;
  return (
    <Section
      title={texts.aCodeAtSign}
      about={on ? texts.askedForBesidesYour : texts.notAskedFor}
      action={
        data && (
          <Button size="small" onClick={() => setOpen(true)}>
            {on ? texts.turnItOff : texts.setItUp}
          </Button>
        )
      }
    >
      <Dialog
        open={open}
        onOpenChange={close}
        title={setup ? texts.scanItThenType : on ? texts.turnCodesOff : texts.askForACode}
        about={setup ? texts.anyAuthenticatorOnYour : on ? texts.yourPasswordAloneLets : texts.whoeverFindsOutYour}
        width={520}
      >
        {setup ? (
          <form
            className="flex flex-col gap-3"
            onSubmit={submit(async ({ code }) => {
              await sendJson('PUT', PATH, { code });
              done(texts.fromNowOnA);
            })}
          >
            <div className="flex items-start gap-4">
              <QrCode text={setup.uri} />
              <div className="min-w-0 flex-1">
                <p className="text-muted">{texts.noCameraTypeThis}</p>
                <ToldOnce text={new URL(setup.uri).searchParams.get('secret') ?? ''} />
              </div>
            </div>
            <Field label={texts.theCodeThatIt}>
              <input
                name="code"
                required
                inputMode="numeric"
                maxLength={8}
                autoComplete="one-time-code"
                className={inputLook}
              />
            </Field>
            <details>
              <summary>{texts.ifYouLoseYour}</summary>
              <ToldOnce text={setup.codes.join(' ')} />
            </details>
            <Button look="brass" type="submit">
              {texts.confirm}
            </Button>
          </form>
        ) : (
          <form
            className="flex flex-col gap-3"
            onSubmit={submit(async ({ password }) => {
              if (on) {
                await sendJson('DELETE', PATH, { password });
                done(texts.codesAreOffYour);
              } else setSetup(await sendJson<FactorSetup>('POST', PATH, { password }));
            })}
          >
            <Field label={texts.yourPassword}>
              <input name="password" type="password" required autoComplete="current-password" className={inputLook} />
            </Field>
            <Button look="brass" type="submit">
              {on ? texts.turnItOff : texts.goOn}
            </Button>
          </form>
        )}
      </Dialog>
    </Section>
  );
}

/** A text as a picture that a phone reads; dark on white in daylight and at night, as readers need it. */
function QrCode({ text }: { text: string }) {
  const { data, size } = encode(text, { border: 3 });
  const path = data.flatMap((row, y) => row.map((dark, x) => (dark ? `M${x} ${y}h1v1h-1z` : ''))).join('');
  return (
    <svg viewBox={`0 0 ${size} ${size}`} className="size-44 shrink-0 rounded-md bg-white" role="img">
      <title>{texts.theSecretAsA}</title>
      <path d={path} fill="black" shapeRendering="crispEdges" />
    </svg>
  );
}
