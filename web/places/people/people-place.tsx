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
import { peoplePlace as texts } from './texts';
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
      toast(texts.canSignInNow(person.name ?? ''));
      setAdding(false);
      refresh();
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Section
      title={texts.people}
      about={texts.canSignIn(people.filter((p) => !p.left).length)}
      action={
        govern && (
          <span className="flex gap-2">
            <Button look="brass" onClick={() => setInviting(true)}>
              {texts.invite}
            </Button>
            <Button onClick={() => setAdding(true)}>{texts.addAPerson}</Button>
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
              <span className="font-medium">{p.name}</span> {p.id === me.id && <Chip>{texts.you}</Chip>}{' '}
              {p.left && <Chip>{texts.hasLeft}</Chip>} {p.secondFactor && <Chip>{texts.code}</Chip>}
              <span className="block truncate text-[11.5px] text-muted">
                {p.email ?? ROLES.find((r) => r.value === p.role)?.about}
              </span>
            </div>
            {govern && !p.left ? (
              <Select
                label={texts.roleOf(p.name)}
                className="w-32"
                value={p.role}
                options={ROLES}
                onChange={(role) => void change(p, { role }, { role: p.role }, texts.isNow(p.name, role))}
              />
            ) : (
              <span className="text-muted">{p.role}</span>
            )}
            {govern && (
              <>
                <Button size="small" onClick={() => setSetting(p)} disabled={p.left}>
                  {texts.password}
                </Button>
                <Button
                  size="small"
                  onClick={() =>
                    void change(
                      p,
                      { left: !p.left },
                      { left: p.left },
                      p.left ? texts.isBack(p.name) : texts.hasLeft2(p.name),
                    )
                  }
                >
                  {p.left ? texts.letBackIn : texts.removeAccess}
                </Button>
              </>
            )}
          </div>
        ))}
        {govern && <InvitationRows />}
      </div>
      <InviteDialog open={inviting} onOpenChange={setInviting} />
      <p className="mt-2 text-[12px] text-muted">{ROLES.map((r) => `${r.label}: ${r.about}`).join(' · ')}</p>
      <Dialog open={adding} onOpenChange={setAdding} title={texts.addAPerson}>
        <form className="flex flex-col gap-3" onSubmit={(e) => void add(e)}>
          <Field label={texts.name}>
            <input name="name" required maxLength={120} className={inputLook} />
          </Field>
          <Field label={texts.eMailAddress}>
            <input name="email" type="email" required className={inputLook} />
          </Field>
          <RoleField />
          <Field label={texts.firstPasswordAtLeast}>
            <input name="password" required minLength={10} className={inputLook} autoComplete="off" />
          </Field>
          <Button look="brass" type="submit">
            {texts.createTheAccount}
          </Button>
        </form>
      </Dialog>
      <Dialog
        open={setting !== null}
        onOpenChange={() => setSetting(null)}
        title={texts.howSignsIn(setting?.name ?? '')}
      >
        {setting?.secondFactor && (
          <div className="mb-4 flex items-center gap-3 border-line border-b pb-4">
            <span className="flex-1">{texts.aCodeIsAsked}</span>
            <Button
              onClick={() => {
                void change(setting, { secondFactor: false }, null, '').then(() =>
                  toast(texts.signsInWithoutA(setting.name)),
                );
                setSetting(null);
              }}
            >
              {texts.turnCodesOff}
            </Button>
          </div>
        )}
        <form
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            const { password } = Object.fromEntries(new FormData(e.currentTarget));
            if (setting)
              void change(setting, { password }, null, '').then(() => toast(texts.signsInAgainWith(setting.name)));
            setSetting(null);
          }}
        >
          <Field label={texts.newPasswordAtLeast}>
            <input name="password" required minLength={10} className={inputLook} autoComplete="off" />
          </Field>
          <Button look="brass" type="submit">
            {texts.setPassword}
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
    <Section title={texts.requests} about={texts.accessToRestrictedFolders}>
      {requests.map((r) => (
        <div key={r.id} className="mb-1 flex items-center gap-3 rounded-lg border border-brass/60 bg-panel px-3 py-2">
          <span className="min-w-0 flex-1">
            <b>{r.personName}</b> {texts.asksForAccessTo} <b>{r.folderName}</b>
            {r.note && <span className="block text-muted">{r.note}</span>}
          </span>
          <Button look="brass" size="small" onClick={() => void decide(r.id, true)}>
            {texts.grant}
          </Button>
          <Button size="small" onClick={() => void decide(r.id, false)}>
            {texts.refuse}
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
    <Section title={texts.keysForPrograms} about={texts.eachActsAsYou}>
      <div className="flex flex-col gap-1">
        {tokens.map((t) => (
          <div key={t.id} className="flex items-center gap-3 rounded-lg border border-line bg-panel px-3 py-1.5">
            <span className="min-w-0 flex-1 truncate" title={t.name}>
              {t.name}
            </span>
            <code className="text-muted">{t.starts}…</code>
            <span className="text-[11.5px] text-muted">
              {t.scope === 'read' ? texts.readsOnly : texts.readsAndChanges}
              {t.expiresAt ? texts.until(new Date(t.expiresAt).toLocaleDateString('en-GB')) : texts.withoutEnd} ·{' '}
              {t.lastUsedAt ? texts.used(new Date(t.lastUsedAt).toLocaleDateString('en-GB')) : texts.neverUsed}
            </span>
            <Button
              size="small"
              onClick={() =>
                void sendJson('DELETE', `${API}/tokens/${t.id}`, {})
                  .then(refresh)
                  .catch((e: Error) => toast.error(e.message))
              }
              hint={texts.itStopsWorkingAt}
            >
              {texts.revoke}
            </Button>
          </div>
        ))}
        <div className="flex items-center gap-2 pt-1">
          <Select
            label={texts.whatTheNewKey}
            value={scope}
            options={[
              { value: 'read', label: texts.readsOnly },
              { value: 'change', label: texts.readsAndChanges },
            ]}
            onChange={setScope}
          />
          <Select
            label={texts.howLongTheNew}
            value={days}
            options={[
              { value: '30', label: texts.n30Days },
              { value: '180', label: texts.n180Days },
              { value: '730', label: texts.n2Years },
            ]}
            onChange={setDays}
          />
          <KeptInput
            aria-label={texts.nameOfANew}
            placeholder={texts.nameANewKey}
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
        title={texts.theNewKey}
        about={texts.itIsShownOnly}
        width={560}
      >
        <ToldOnce text={made ?? ''} />
      </Dialog>
    </Section>
  );
}
