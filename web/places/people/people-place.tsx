'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { usePeople } from '@/client/queries';
import { useMay, useMe } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { PersonRow, RightRequest, TokenRow, TokenScope } from '@/contract';
import { Button } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook, KeptInput, Select } from '@/ui/field';
import { AuditSection } from './audit-section';
import { FactorSection } from './factor-section';
import { FieldsSection } from './fields-section';
import { InvitationRows, InviteDialog } from './invitations';
import { ROLES, RoleField } from './roles';
import { Section } from './section';
import { SessionsSection } from './sessions-section';
import { StorageSection } from './storage-section';
import { TagsSection } from './tags-section';
import { ToldOnce } from './told-once';

/** Who works here and may do what; tags and fields of the library; keys for programs. */
export function PeoplePlace() {
  const govern = useMay('admin');
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto grid max-w-6xl grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] gap-x-10 gap-y-8 p-6">
        <div className="flex flex-col gap-8">
          <Accounts />
          <Requests />
          <Tokens />
          <FactorSection />
          <SessionsSection />
        </div>
        <div className="flex flex-col gap-8">
          <TagsSection />
          <FieldsSection />
          <StorageSection />
        </div>
        {govern && (
          <div className="col-span-2">
            <AuditSection />
          </div>
        )}
      </div>
    </div>
  );
}

function Accounts() {
  const client = useQueryClient();
  const me = useMe();
  const govern = useMay('admin');
  const push = useUndo((s) => s.push);
  const { data: people = [] } = usePeople();
  const [adding, setAdding] = useState(false);
  const [inviting, setInviting] = useState(false);
  const [setting, setSetting] = useState<PersonRow | null>(null);
  const refresh = (): void => void client.invalidateQueries({ queryKey: ['people'] });
  const change = async (p: PersonRow, to: object, back: object | null, label: string): Promise<void> => {
    try {
      await sendJson('PATCH', `${API}/people/${p.id}`, to);
      if (back) push({ label, undo: () => sendJson('PATCH', `${API}/people/${p.id}`, back) });
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const add = async (e: FormEvent<HTMLFormElement>): Promise<void> => {
    e.preventDefault();
    const person = Object.fromEntries(new FormData(e.currentTarget)) as Record<string, string>;
    try {
      await sendJson('POST', `${API}/people`, person);
      toast(`${person.name} can sign in now`);
      setAdding(false);
      refresh();
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Section
      title="People"
      about={`${people.filter((p) => !p.left).length} can sign in`}
      action={
        govern && (
          <span className="flex gap-2">
            <Button look="brass" onClick={() => setInviting(true)}>
              Invite
            </Button>
            <Button onClick={() => setAdding(true)}>Add a person</Button>
          </span>
        )
      }
    >
      <div className="flex flex-col gap-1">
        {people.map((p) => (
          <div
            key={p.id}
            className={`flex items-center gap-3 rounded-lg border border-line bg-panel px-3 py-2 ${p.left ? 'opacity-60' : ''}`}
          >
            <div className="min-w-0 flex-1">
              <span className="font-medium">{p.name}</span> {p.id === me.id && <Chip>you</Chip>}{' '}
              {p.left && <Chip>has left</Chip>} {p.secondFactor && <Chip>code</Chip>}
              <span className="block truncate text-[11.5px] text-muted">
                {p.email ?? ROLES.find((r) => r.value === p.role)?.about}
              </span>
            </div>
            {govern && !p.left ? (
              <Select
                label={`Role of ${p.name}`}
                className="w-32"
                value={p.role}
                options={ROLES}
                onChange={(role) => void change(p, { role }, { role: p.role }, `${p.name} is ${role} now`)}
              />
            ) : (
              <span className="text-muted">{p.role}</span>
            )}
            {govern && (
              <>
                <Button size="small" onClick={() => setSetting(p)} disabled={p.left}>
                  Password
                </Button>
                <Button
                  size="small"
                  onClick={() =>
                    void change(
                      p,
                      { left: !p.left },
                      { left: p.left },
                      p.left ? `${p.name} is back` : `${p.name} has left`,
                    )
                  }
                >
                  {p.left ? 'Let back in' : 'Remove access'}
                </Button>
              </>
            )}
          </div>
        ))}
        {govern && <InvitationRows />}
      </div>
      <InviteDialog open={inviting} onOpenChange={setInviting} />
      <p className="mt-2 text-[12px] text-muted">{ROLES.map((r) => `${r.label}: ${r.about}`).join(' · ')}</p>
      <Dialog open={adding} onOpenChange={setAdding} title="Add a person">
        <form className="flex flex-col gap-3" onSubmit={(e) => void add(e)}>
          <Field label="Name">
            <input name="name" required maxLength={120} className={inputLook} />
          </Field>
          <Field label="E-mail address">
            <input name="email" type="email" required className={inputLook} />
          </Field>
          <RoleField />
          <Field label="First password, at least 10 characters">
            <input name="password" required minLength={10} className={inputLook} autoComplete="off" />
          </Field>
          <Button look="brass" type="submit">
            Create the account
          </Button>
        </form>
      </Dialog>
      <Dialog
        open={setting !== null}
        onOpenChange={() => setSetting(null)}
        title={`How ${setting?.name ?? ''} signs in`}
      >
        {setting?.secondFactor && (
          <div className="mb-4 flex items-center gap-3 border-line border-b pb-4">
            <span className="flex-1">
              A code is asked for besides the password. Turn it off where its device is lost.
            </span>
            <Button
              onClick={() => {
                void change(setting, { secondFactor: false }, null, '').then(() =>
                  toast(`${setting.name} signs in without a code now`),
                );
                setSetting(null);
              }}
            >
              Turn codes off
            </Button>
          </div>
        )}
        <form
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            const { password } = Object.fromEntries(new FormData(e.currentTarget));
            if (setting)
              void change(setting, { password }, null, '').then(() => toast(`${setting.name} signs in again with it`));
            setSetting(null);
          }}
        >
          <Field label="New password, at least 10 characters; they are signed out everywhere">
            <input name="password" required minLength={10} className={inputLook} autoComplete="off" />
          </Field>
          <Button look="brass" type="submit">
            Set password
          </Button>
        </form>
      </Dialog>
    </Section>
  );
}

function Requests() {
  const client = useQueryClient();
  const curate = useMay('librarian');
  const { data: requests = [] } = useQuery({
    queryKey: ['requests'],
    queryFn: () => getJson<RightRequest[]>(`${API}/requests`),
    enabled: curate,
  });
  if (!curate || requests.length === 0) return null;
  const decide = async (id: string, grant: boolean): Promise<void> => {
    try {
      await sendJson('POST', `${API}/requests/${id}`, { grant });
      void client.invalidateQueries({ queryKey: ['requests'] });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <Section title="Requests" about="access to restricted folders">
      {requests.map((r) => (
        <div key={r.id} className="mb-1 flex items-center gap-3 rounded-lg border border-brass/60 bg-panel px-3 py-2">
          <span className="min-w-0 flex-1">
            <b>{r.personName}</b> asks for access to <b>{r.folderName}</b>
            {r.note && <span className="block text-muted">{r.note}</span>}
          </span>
          <Button look="brass" size="small" onClick={() => void decide(r.id, true)}>
            Grant
          </Button>
          <Button size="small" onClick={() => void decide(r.id, false)}>
            Refuse
          </Button>
        </div>
      ))}
    </Section>
  );
}

function Tokens() {
  const client = useQueryClient();
  const { data: tokens = [] } = useQuery({ queryKey: ['tokens'], queryFn: () => getJson<TokenRow[]>(`${API}/tokens`) });
  const [made, setMade] = useState<string | null>(null);
  const [scope, setScope] = useState<TokenScope>('read');
  const [days, setDays] = useState('180');
  const refresh = (): void => void client.invalidateQueries({ queryKey: ['tokens'] });
  return (
    <Section title="Keys for programs" about="each acts as you, with your rights">
      <div className="flex flex-col gap-1">
        {tokens.map((t) => (
          <div key={t.id} className="flex items-center gap-3 rounded-lg border border-line bg-panel px-3 py-1.5">
            <span className="min-w-0 flex-1 truncate" title={t.name}>
              {t.name}
            </span>
            <code className="text-muted">{t.starts}…</code>
            <span className="text-[11.5px] text-muted">
              {t.scope === 'read' ? 'reads only' : 'reads and changes'}
              {t.expiresAt ? ` · until ${new Date(t.expiresAt).toLocaleDateString('en-GB')}` : ' · without end'} ·{' '}
              {t.lastUsedAt ? `used ${new Date(t.lastUsedAt).toLocaleDateString('en-GB')}` : 'never used'}
            </span>
            <Button
              size="small"
              onClick={() =>
                void sendJson('DELETE', `${API}/tokens/${t.id}`, {})
                  .then(refresh)
                  .catch((e: Error) => toast.error(e.message))
              }
              hint="It stops working at once and for good"
            >
              Revoke
            </Button>
          </div>
        ))}
        <div className="flex items-center gap-2 pt-1">
          <Select
            label="What the new key may do"
            value={scope}
            options={[
              { value: 'read', label: 'reads only' },
              { value: 'change', label: 'reads and changes' },
            ]}
            onChange={setScope}
          />
          <Select
            label="How long the new key is valid"
            value={days}
            options={[
              { value: '30', label: '30 days' },
              { value: '180', label: '180 days' },
              { value: '730', label: '2 years' },
            ]}
            onChange={setDays}
          />
          <KeptInput
            aria-label="Name of a new key"
            placeholder="Name a new key, then press Enter"
            value=""
            clears
            onKeep={(name) => {
              if (name)
                void sendJson<{ token: string }>('POST', `${API}/tokens`, { name, scope, days: Number(days) })
                  .then((t) => setMade(t.token))
                  .then(refresh)
                  .catch((e: Error) => toast.error(e.message));
            }}
            className="w-full"
          />
        </div>
      </div>
      <Dialog
        open={made !== null}
        onOpenChange={() => setMade(null)}
        title="The new key"
        about="It is shown only this once."
        width={560}
      >
        <ToldOnce text={made ?? ''} />
      </Dialog>
    </Section>
  );
}
