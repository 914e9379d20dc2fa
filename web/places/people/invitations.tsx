'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import type { InvitationRow } from '@/contract';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { RoleField } from './roles';
import { invitations as texts } from './texts';
import { ToldOnce } from './told-once';

const KEY = ['people', 'invitations'] as const;

/** Invitations that nobody has followed yet. */
export function InvitationRows() {
  const client = useQueryClient();
  const { data: rows = [] } = useQuery({
    queryKey: KEY,
    queryFn: () => getJson<InvitationRow[]>(`${API}/invitations`),
  });
  const withdraw = (id: string): void =>
    void sendJson('DELETE', `${API}/invitations/${id}`, {})
      .then(() => client.invalidateQueries({ queryKey: KEY }))
      .catch((e: Error) => toast.error(e.message));
  return rows.map((r) => (
    <div key={r.id} className="flex items-center gap-3 rounded-lg border border-line border-dashed px-3 py-1.5">
      <span className="min-w-0 truncate" title={r.name}>
        {r.name}
      </span>
      <span className="shrink-0 text-muted">{texts.isInvitedAs(r.role)}</span>
      <span className="ml-auto shrink-0 text-[11.5px] text-muted">
        {texts.until(new Date(r.expiresAt).toLocaleDateString('en-GB', { day: 'numeric', month: 'long' }))}
      </span>
      <Button size="small" onClick={() => withdraw(r.id)} hint={texts.theLinkStopsWorking}>
        {texts.withdraw}
      </Button>
    </div>
  ));
}

/** Makes a link by which somebody chooses their own address and password. */
export function InviteDialog({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const client = useQueryClient();
  const [link, setLink] = useState<string | null>(null);
  const invite = async (e: FormEvent<HTMLFormElement>): Promise<void> => {
    e.preventDefault();
    const { name, role, days } = Object.fromEntries(new FormData(e.currentTarget));
    try {
      const body = { name, role, days: Number(days) };
      const { code } = await sendJson<{ code: string }>('POST', `${API}/invitations`, body);
      // behind the hash: it is sent to no server and stands in no log
      setLink(`${window.location.origin}/library#invitation=${code}`);
      void client.invalidateQueries({ queryKey: KEY });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const close = (to: boolean): void => {
    if (!to) setLink(null);
    onOpenChange(to);
  };
  return (
    <Dialog
      open={open}
      onOpenChange={close}
      title={link ? texts.theInvitation : texts.inviteSomebody}
      about={link ? texts.sendThisLinkIt : texts.theyChooseTheirOwn}
      width={520}
    >
      {link ? (
        <ToldOnce text={link} />
      ) : (
        <form className="flex flex-col gap-3" onSubmit={(e) => void invite(e)}>
          <Field label={texts.whomIsItFor}>
            <input name="name" required maxLength={120} className={inputLook} autoComplete="off" />
          </Field>
          <RoleField />
          <Field label={texts.theLinkHoldsFor}>
            <select name="days" defaultValue="7" className={inputLook}>
              <option value="1">{texts.aDay}</option>
              <option value="7">{texts.aWeek}</option>
              <option value="30">{texts.aMonth}</option>
            </select>
          </Field>
          <Button look="brass" type="submit">
            {texts.makeTheLink}
          </Button>
        </form>
      )}
    </Dialog>
  );
}
