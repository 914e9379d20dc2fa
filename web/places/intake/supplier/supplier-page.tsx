'use client';

import { clsx } from 'clsx';
import { Search, Store, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { usePerformer, useRefresh } from '@/client/queries';
import { useMay } from '@/client/session';
import { useLater } from '@/client/use-later';
import type { Offer, OfferedPackRow, SupplierState } from '@/contract';
import { many } from '@/naming/counts';
import { Button, IconButton } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { Dialog } from '@/ui/dialog';
import { Empty } from '@/ui/empty';
import { inputLook, SwitchRow } from '@/ui/field';
import { supplierPage as texts } from '../texts';
import { OfferCard } from './offer-card';
import { OfferStage } from './offer-stage';
import { Reissues } from './reissues';
import { useOfferedPacks, useOffers, useSupplierAgain, useSupplierState } from './use-supplier';

const TAGS_SHOWN = 10;

/** What is about to be bought: takes or a pack, at the price that is shown. */
interface Purchase {
  readonly name: string;
  readonly takes?: readonly string[];
  readonly pack?: string;
  readonly price: number;
}

/** A supplier's catalogue: browse, see on the performer, take what is owned, buy the rest. */
export function SupplierPage({ onClose }: { onClose: () => void }) {
  const { data: state, error } = useSupplierState();
  const [known, setKnown] = useState<SupplierState>();
  if (state && state.state !== 'away' && state !== known) setKnown(state);
  if (error && !known) return <Empty title={texts.theSuppliersPageCould}>{error.message}</Empty>;
  if (!state && !known) return <Empty title={texts.askingTheSupplier} />;
  if (!known)
    return (
      <Empty title={texts.theSupplierDoesNot} action={<Button onClick={onClose}>{texts.backToIntake}</Button>}>
        {texts.itIsTriedAgain} <code>{texts.velvetReelSupplier}</code> {texts.startsAStandIn}
      </Empty>
    );
  // a supplier that is away for a moment takes away nothing that was searched for or chosen
  return <Catalogue state={known} away={error !== null || state?.state === 'away'} onClose={onClose} />;
}

function Catalogue({ state, away, onClose }: { state: SupplierState; away: boolean; onClose: () => void }) {
  const mayBuy = useMay('librarian');
  const mayFetch = useMay('animator');
  const { member, rig } = usePerformer();
  const [q, setQ] = useState('');
  const asked = useLater(q.trim(), 200);
  const [tag, setTag] = useState<string | null>(null);
  const [pack, setPack] = useState<OfferedPackRow | null>(null);
  const [page, setPage] = useState(1);
  const [view, setView] = useState<'takes' | 'packs' | 'issues'>('takes');
  // what is narrowed anew begins on its first page
  // biome-ignore lint/correctness/useExhaustiveDependencies: only their change counts
  useEffect(() => setPage(1), [asked, tag, pack]);
  const found = useOffers({ q: asked, tag, pack: pack?.id ?? null, page }, view === 'takes');
  const packs = useOfferedPacks(view === 'packs' || pack !== null);
  const [chosen, setChosen] = useState<Offer>();
  const [buying, setBuying] = useState<Purchase>();
  const refresh = useRefresh();
  const again = useSupplierAgain();
  const offer = found.data?.takes.find((t) => t.id === chosen?.id) ?? chosen;
  const fetchAll = async (wish: Omit<Purchase, 'name'>): Promise<void> => {
    try {
      await sendJson('POST', `${API}/supplier/fetch`, { takes: wish.takes, pack: wish.pack, price: wish.price });
      toast(texts.onItsWayIntake);
    } catch (e) {
      toast.error((e as Error).message);
    }
    refresh();
    again();
  };
  const takeOwned = async (): Promise<void> => {
    try {
      await sendJson('POST', `${API}/supplier/owned`, {});
      toast(texts.whatYouOwnIs);
    } catch (e) {
      toast.error((e as Error).message);
    }
    refresh();
    again();
  };
  const setByItself = async (byItself: boolean): Promise<void> => {
    await sendJson('PATCH', `${API}/supplier/link`, { byItself }).catch((e: Error) => toast.error(e.message));
    again();
  };
  const tags = found.data?.tags.slice(0, TAGS_SHOWN) ?? [];
  return (
    <section aria-label={texts.supplier} className="flex h-full min-h-0">
      <div className="flex min-w-0 flex-1 flex-col gap-3 overflow-y-auto p-4">
        <div className="flex items-center gap-3">
          <Store size={18} className="text-brass" />
          <h1 className="heading text-lg">{state.name}</h1>
          {state.account && (
            <span className="text-muted">
              {state.account.name}: <b className="text-ink tabular-nums">{state.account.credits}</b>{' '}
              {texts.creditsTakeOwned(state.account.owned)}
            </span>
          )}
          <span className="ml-auto" />
          <IconButton label={texts.backToIntake} onClick={onClose}>
            <X size={16} />
          </IconButton>
        </div>
        {away && (
          <p role="status" className="rounded-lg border border-line bg-panel px-3 py-2 text-brass-text">
            {texts.awayForTheMoment}
          </p>
        )}
        {state.state === 'unlinked' && <LinkForm mayLink={mayBuy} onLinked={again} />}
        {state.account && (
          <div className="flex flex-wrap items-center gap-3 rounded-lg border border-line bg-panel px-3 py-2">
            {state.waiting > 0 ? (
              <>
                <span>{texts.ownedTakeNotIn(state.waiting)}</span>
                <Button size="small" look="brass" disabled={!mayFetch} onClick={() => void takeOwned()}>
                  {texts.takeThemIn(state.waiting)}
                </Button>
              </>
            ) : (
              <span className="text-muted">
                {state.coming > 0
                  ? texts.onTheWayInto(state.coming)
                  : state.account.owned === 0
                    ? texts.nothingIsOwnedYet
                    : texts.allThatIsOwned}
              </span>
            )}
            {mayBuy && (
              <span className="ml-auto w-72">
                <SwitchRow
                  label={texts.bringInWhatIs}
                  checked={state.byItself}
                  onChange={(on) => void setByItself(on)}
                />
              </span>
            )}
          </div>
        )}
        <div className="flex flex-wrap items-center gap-2">
          <fieldset className="flex overflow-hidden rounded-md border border-line">
            <legend className="sr-only">{texts.whatToShow}</legend>
            {(
              [
                ['takes', texts.takes],
                ['packs', texts.packs],
                ['issues', state.reissued > 0 ? texts.newIssues(state.reissued) : texts.newIssues2],
              ] as const
            ).map(([key, word]) => (
              <button
                key={key}
                type="button"
                aria-pressed={view === key}
                onClick={() => setView(key)}
                className={clsx('px-3 py-1', view === key ? 'bg-raised text-ink' : 'text-muted hover:text-ink')}
              >
                {word}
              </button>
            ))}
          </fieldset>
          {view === 'takes' && (
            <label className="relative min-w-40 flex-1">
              <Search size={14} className="absolute top-2 left-2 text-muted" />
              <input
                type="search"
                aria-label={texts.findInTheCatalogue}
                placeholder={texts.findInTheCatalogue}
                className={`${inputLook} w-full pl-7!`}
                value={q}
                onChange={(e) => setQ(e.target.value)}
              />
            </label>
          )}
        </div>
        {view === 'takes' && (
          <>
            <div className="flex flex-wrap gap-1.5">
              {pack && (
                <button type="button" onClick={() => setPack(null)} aria-label={texts.leaveThePack(pack.name)}>
                  <Chip tone="brass">
                    {pack.name} <X size={11} />
                  </Chip>
                </button>
              )}
              {tags.map((t) => (
                <button
                  key={t.name}
                  type="button"
                  aria-pressed={tag === t.name}
                  onClick={() => setTag(tag === t.name ? null : t.name)}
                >
                  <Chip tone={tag === t.name ? 'brass' : 'plain'}>
                    {t.name} {t.count}
                  </Chip>
                </button>
              ))}
            </div>
            {found.error && (
              <p role="alert" className="text-raspberry">
                {found.error.message}{' '}
                <button type="button" className="underline" onClick={() => void found.refetch()}>
                  {texts.tryAgain}
                </button>
              </p>
            )}
            {found.data?.takes.length === 0 && <p className="text-muted">{texts.nothingInTheCatalogue}</p>}
            <ul className="grid grid-cols-[repeat(auto-fill,minmax(15rem,1fr))] gap-2">
              {found.data?.takes.map((t) => (
                <li key={t.id}>
                  <OfferCard offer={t} chosen={offer?.id === t.id} onChoose={() => setChosen(t)} />
                </li>
              ))}
            </ul>
            {found.data && found.data.pages > 1 && (
              <div className="flex items-center justify-center gap-3 text-muted">
                <Button size="small" disabled={page <= 1} onClick={() => setPage(page - 1)}>
                  {texts.before}
                </Button>
                <span className="tabular-nums">{texts.ofIt(page, found.data.pages)}</span>
                <Button size="small" disabled={page >= found.data.pages} onClick={() => setPage(page + 1)}>
                  {texts.after}
                </Button>
              </div>
            )}
          </>
        )}
        {view === 'packs' && (
          <ul className="flex flex-col gap-2">
            {packs.error && <p className="text-raspberry">{packs.error.message}</p>}
            {packs.data?.map((p) => (
              <li key={p.id} className="flex items-center gap-3 rounded-lg border border-line px-3 py-2">
                <span className="min-w-0">
                  <span className="block truncate font-semibold">{p.name}</span>
                  <span className="text-[12.5px] text-muted">
                    {many(p.takes.length, 'take')}. {p.note}
                  </span>
                </span>
                <span className="ml-auto" />
                <Button
                  size="small"
                  onClick={() => {
                    setPack(p);
                    setTag(null);
                    setQ('');
                    setView('takes');
                  }}
                >
                  {texts.open}
                </Button>
                {p.owned === p.takes.length ? (
                  <Chip tone="brass">{texts.owned}</Chip>
                ) : (
                  <Button
                    size="small"
                    look="brass"
                    disabled={!mayBuy || !state.account}
                    onClick={() => setBuying({ name: p.name, pack: p.id, price: p.price })}
                  >
                    {many(p.price, 'credit')}
                  </Button>
                )}
              </li>
            ))}
          </ul>
        )}
        {view === 'issues' && <Reissues linked={state.account !== null} mayFetch={mayFetch} onFetched={again} />}
      </div>
      <OfferStage
        offer={offer}
        member={member}
        rig={rig}
        linked={state.account !== null}
        mayBuy={mayBuy}
        mayFetch={mayFetch}
        onBuy={(o) => setBuying({ name: o.name, takes: [o.id], price: o.price })}
        onTake={(o) => void fetchAll({ takes: [o.id], price: 0 })}
        onTakeOwned={() => void takeOwned()}
      />
      {buying && state.account && (
        <Dialog
          open
          onOpenChange={() => setBuying(undefined)}
          title={texts.buy(buying.name)}
          about={texts.ofAPurchaseCannot(buying.price, state.account.credits)}
        >
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={() => setBuying(undefined)}>{texts.cancel}</Button>
            <Button
              look="brass"
              disabled={buying.price > state.account.credits}
              onClick={() => {
                void fetchAll(buying);
                setBuying(undefined);
              }}
            >
              {texts.buyForCredit(buying.price)}
            </Button>
          </div>
          {buying.price > state.account.credits && <p className="mt-2 text-raspberry">{texts.theAccountHasToo}</p>}
        </Dialog>
      )}
    </section>
  );
}

/** The account's key: kept sealed, never shown again. */
function LinkForm({ mayLink, onLinked }: { mayLink: boolean; onLinked: () => void }) {
  const [key, setKey] = useState('');
  const [busy, setBusy] = useState(false);
  const link = async (): Promise<void> => {
    setBusy(true);
    try {
      await sendJson('PUT', `${API}/supplier/link`, { key });
      setKey('');
      onLinked();
    } catch (e) {
      toast.error((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  if (!mayLink) return <p className="text-muted">{texts.noAccountIsLinked}</p>;
  return (
    <form
      className="flex flex-wrap items-center gap-2 rounded-lg border border-dashed border-line px-3 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        void link();
      }}
    >
      <span>{texts.linkYourAccountTo}</span>
      <input
        aria-label={texts.keyOfTheAccount}
        placeholder={texts.keyOfTheAccount2}
        type="password"
        autoComplete="off"
        className={`${inputLook} w-56`}
        value={key}
        onChange={(e) => setKey(e.target.value)}
      />
      <Button look="brass" type="submit" disabled={busy || key.trim() === ''}>
        {texts.link}
      </Button>
    </form>
  );
}
