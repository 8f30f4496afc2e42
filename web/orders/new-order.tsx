import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { ItemRow } from '#contract/items';
import type { Me } from '#contract/people';
import {
  Button,
  counted,
  Field,
  read,
  sayDay,
  siteToday,
  sound,
  Tick,
  Trouble,
  useMe,
  useRead,
  useScanner,
  useSend,
  ItemPicture,
} from '#web/base';
import { ChoiceField, DateField, Select, usePicked } from '#web/forms';
import { MorePanel } from './more-of-order.tsx';
import {
  addToDraft,
  draftFault,
  keepDraft,
  loadDraft,
  orderOfDraft,
  qtyFault,
  setDraftQty,
  takeFromDraft,
  type DraftLine,
  type OrderDraft,
} from './draft.ts';

const DUE_IN_DAYS = 3;
const MOST_SHOWN = 14;
const KINDS = [
  ['customer', 'a customer'],
  ['job', 'a job here'],
  ['transfer', 'another site'],
] as const;

/** Fast lines: search or scan, quantity, Enter, on to the next; the order grows beside the search and is kept until it is saved. */
export function NewOrder() {
  const data = useMe();
  return data?.me ? <DraftForm me={data.me} /> : null;
}

const lineOf = (item: ItemRow, qty: string): DraftLine => ({
  item: item.id,
  code: item.code,
  description: item.description,
  unit: item.unit,
  decimals: item.decimals,
  qty,
});

function useDraft(me: Me): readonly [OrderDraft, (change: (was: OrderDraft) => OrderDraft) => void] {
  const [draft, setDraft] = useState(() => loadDraft(me.id, me.site.id, siteToday(DUE_IN_DAYS)));
  const change = (by: (was: OrderDraft) => OrderDraft): void =>
    setDraft((was) => {
      const next = by(was);
      keepDraft(me.id, me.site.id, next);
      return next;
    });
  return [draft, change];
}

function DraftForm({ me }: { me: Me }) {
  const go = useNavigate();
  const [draft, change] = useDraft(me);
  const [q, setQ] = useState('');
  const [chosen, setChosen] = useState<ItemRow | null>(null);
  const [qty, setQty] = useState('1');
  const [onlyFree, setOnlyFree] = useState(true);
  const [touched, setTouched] = useState<number | null>(null);
  const words = useDeferredValue(q);
  const searchBox = useRef<HTMLInputElement>(null);
  const [customer, setCustomer] = usePicked('customer', draft.customer, (to) => change((was) => ({ ...was, customer: to })));
  const { data: found, error: unfound } = useRead(
    'items.search',
    { query: { q: words, ...(onlyFree ? { free: 'yes' as const } : {}), limit: 30 } },
    { keep: true },
  );
  const promise = useSend('orders.promise');
  const make = useSend('orders.make', { quiet: true });
  const put = (line: DraftLine): void => {
    change((was) => addToDraft(was, line));
    setTouched(line.item);
  };
  const fault = chosen ? qtyFault({ decimals: chosen.decimals, qty }) : null;
  const add = (): void => {
    if (!chosen || fault !== null) return sound('wrong');
    put(lineOf(chosen, qty.replace(',', '.')));
    setChosen(null);
    setQ('');
    setQty('1');
    searchBox.current?.focus();
  };
  // A scan here is one more of the goods; it neither leaves the page nor takes away what is on it.
  useScanner((code) => {
    read('desk.scan', { query: { code } }).then(
      (meant) => {
        if (meant.kind !== 'item') {
          sound('look');
          toast(meant.kind === 'unknown' ? `Nothing here is known by “${meant.text}”.` : 'That is no goods. Scan what is ordered.');
          return;
        }
        sound('right');
        const { item, code: itemCode, description, unit, decimals, packUnits } = meant;
        put({ item, code: itemCode, description, unit, decimals, qty: packUnits });
      },
      (error: Error) => {
        sound('wrong');
        toast.error(error.message);
      },
    );
  });
  useEffect(() => {
    document.getElementById(`line-${touched}`)?.scrollIntoView({ block: 'nearest' });
  }, [touched, draft.lines.length]);
  const why = draftFault(draft);
  const save = async (): Promise<void> => {
    const order = await make.mutateAsync({
      body: orderOfDraft(draft),
    });
    keepDraft(me.id, me.site.id, null);
    // The order is there, whatever becomes of the promise: its page says what is missing.
    await promise.mutateAsync({ body: { orders: [order.id], mode: 'free' } }).catch(() => undefined);
    void go(`/orders/${order.id}`);
  };
  const items = found?.items ?? [];
  return (
    <div className="grid grid-cols-1 gap-8 lg:grid-cols-2">
      <section>
        <h1 className="code text-3xl">New order</h1>
        <Combobox
          value={chosen}
          by="id"
          onChange={(item: ItemRow | null) => {
            setChosen(item);
            setQty('1');
          }}
        >
          <div className="my-2 flex items-center gap-3">
            <ComboboxInput
              ref={searchBox}
              autoFocus
              aria-label="Search items to order"
              autoComplete="off"
              className="min-h-10 flex-1 rounded border-2 border-ink bg-sheet px-2 text-lg"
              placeholder="Item: code, words; or scan it"
              displayValue={() => q}
              onChange={(e) => {
                setQ(e.target.value);
                setChosen(null);
              }}
            />
            <Tick label="only what is free" checked={onlyFree} onChange={(e) => setOnlyFree(e.target.checked)} />
          </div>
          {chosen && (
            <form
              className="flex items-center gap-3 border-2 border-b-0 border-ink bg-shade px-2 py-2"
              onSubmit={(e) => {
                e.preventDefault();
                add();
              }}
            >
              <ItemPicture item={chosen.id} size="bench" />
              <span className="min-w-0 flex-1">
                <span className="code block text-xl">{chosen.code}</span>
                <span className="block truncate">{chosen.description}</span>
              </span>
              <input
                autoFocus
                aria-label="How many"
                aria-invalid={fault !== null}
                className={`w-28 rounded border-2 bg-sheet px-2 text-xl font-bold ${fault ? 'border-wrong' : 'border-ink'}`}
                inputMode="decimal"
                value={qty}
                onFocus={(e) => e.target.select()}
                onChange={(e) => setQty(e.target.value)}
              />
              <Button look="next" type="submit" disabled={fault !== null}>
                Add
              </Button>
              {fault ? <span className="font-semibold text-wrong">{fault}</span> : <WhenMore item={chosen} qty={qty} />}
            </form>
          )}
          <ComboboxOptions static modal={false} className="border-2 border-ink/70 bg-sheet" aria-label="Found items">
            <Trouble error={unfound} />
            {items.length === 0 && !unfound && (
              <p className="p-2 text-soft">
                {words === ''
                  ? onlyFree
                    ? 'Nothing is free to be promised.'
                    : 'There is no item yet.'
                  : `Nothing ${onlyFree ? 'free ' : ''}is known by “${words}”.`}
              </p>
            )}
            {items.slice(0, MOST_SHOWN).map((item) => (
              <ComboboxOption
                key={item.id}
                value={item}
                className="flex cursor-pointer items-center gap-3 border-b border-line px-2 py-1 last:border-0
                  data-focus:bg-shade/60 data-selected:bg-shade"
              >
                <ItemPicture item={item.id} />
                <span className="code text-lg">{item.code}</span>
                <span className="flex-1 truncate">{item.description}</span>
                <span>
                  <strong>{item.free}</strong> <span className="text-sm text-soft">{item.unit} free</span>
                </span>
              </ComboboxOption>
            ))}
          </ComboboxOptions>
        </Combobox>
      </section>
      <section>
        <div className="flex items-end gap-3">
          <Select
            label="For"
            className="w-36"
            value={draft.kind}
            options={KINDS}
            onChange={(kind) => change((was) => ({ ...was, kind }))}
          />
          <div className="min-w-0 flex-1">
            {draft.kind === 'customer' && <ChoiceField kind="customer" label="Customer" value={customer} onChange={setCustomer} />}
            {draft.kind === 'job' && (
              <Field label="Job" value={draft.job} maxLength={60} onChange={(e) => change((was) => ({ ...was, job: e.target.value }))} />
            )}
            {draft.kind === 'transfer' && (
              <Select
                label="To which site"
                value={draft.toSite ?? undefined}
                options={me.sites.filter((s) => s.id !== me.site.id).map((s) => [s.id, s.name] as const)}
                onChange={(toSite) => change((was) => ({ ...was, toSite }))}
              />
            )}
          </div>
          <div className="w-40">
            <DateField label="Due" value={draft.due} onChange={(due) => change((was) => ({ ...was, due }))} />
          </div>
        </div>
        <MorePanel draft={draft} change={change} />
        <h2 className="mt-4 flex items-baseline border-b-2 border-ink font-bold">
          {counted(draft.lines.length, 'line', 'lines')}
          {draft.lines.length > 0 && (
            <span className="ml-auto">
              <Button
                look="quiet"
                onClick={() => {
                  const before = draft;
                  change((was) => ({ ...was, lines: [] }));
                  toast('All lines are taken out.', { action: { label: 'Undo', onClick: () => change(() => before) } });
                }}
              >
                Begin anew
              </Button>
            </span>
          )}
        </h2>
        {draft.lines.length === 0 && (
          <p className="py-3 text-soft">Scan goods; or find an item on the left, press Enter, key how many, press Enter.</p>
        )}
        <ul>
          {draft.lines.map((l) => {
            const wrong = qtyFault(l);
            return (
              <li
                key={l.item}
                id={`line-${l.item}`}
                className={`flex items-baseline gap-3 border-b border-line py-1.5 ${l.item === touched ? 'bg-shade' : ''}`}
              >
                <span className="code text-lg">{l.code}</span>
                <span className="flex-1 truncate">{l.description}</span>
                {wrong && <span className="font-semibold text-wrong">{wrong}</span>}
                <input
                  aria-label={`How many ${l.code}`}
                  aria-invalid={wrong !== null}
                  inputMode="decimal"
                  className={`w-20 rounded border-2 bg-sheet px-1 text-right text-lg font-bold ${wrong ? 'border-wrong' : 'border-line'}`}
                  value={l.qty}
                  onChange={(e) => change((was) => setDraftQty(was, l.item, e.target.value))}
                />
                <span className="w-12 text-soft">{l.unit}</span>
                <Button look="quiet" onClick={() => change((was) => takeFromDraft(was, l.item))}>
                  Remove
                </Button>
              </li>
            );
          })}
        </ul>
        <div className="mt-4 space-y-3">
          <Trouble error={make.error} />
          <Button
            look="next"
            className="min-h-11 w-full text-lg"
            disabled={why !== null || make.isPending || promise.isPending}
            onClick={() => void save()}
          >
            Save and promise what is free
          </Button>
          {why !== null && draft.lines.length > 0 && <p className="text-soft">{why}</p>}
        </div>
      </section>
    </div>
  );
}

/** What of an item is free, and when more comes. */
function WhenMore({ item, qty }: { item: ItemRow; qty: string }) {
  const { data } = useRead('stock.equation', { params: { id: item.id } });
  const [next] = data?.onOrder ?? [];
  const isShort = Number(qty.replace(',', '.')) > Number(item.free);
  return (
    <span className={`max-w-48 text-sm leading-tight ${isShort ? 'font-semibold text-wrong' : 'text-soft'}`}>
      {item.free} free{isShort && ': the rest cannot be promised yet'}
      {next && (
        <span className="block">
          {next.qty} come {sayDay(next.due)}
        </span>
      )}
    </span>
  );
}
