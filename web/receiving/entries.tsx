import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { Delivery, EntryOut } from '#contract/receiving';
import {
  Button,
  Field,
  ItemName,
  MoreRows,
  Plate,
  sayDay,
  sayMoment,
  sayMoney,
  SearchBox,
  Tag,
  useBeginning,
  useMe,
  useSend,
} from '#web/base';
import { Found, InspectEntry } from './inspect-entry.tsx';
import { PlaceEntry } from './place-entry.tsx';

// Where there are more than this, somebody looks for one.
const FEW = 20;

/** What was entered, the newest first: each to mend, to send somewhere, to inspect or to take back; a long list in parts. */
export function Entries({ delivery }: { delivery: Delivery }) {
  const role = useMe()?.me?.role;
  const [words, setWords] = useState('');
  const found = delivery.entryList.filter((e) => isMeant(e, words));
  const entries = useBeginning(found);
  const isOpen = delivery.state === 'scanning' || delivery.state === 'review';
  return (
    <section>
      <div className="flex items-end gap-3 border-b-2 border-ink pb-1">
        <h2 className="flex-1 font-bold">Entries, newest first</h2>
        {delivery.entryList.length > FEW && (
          <SearchBox
            label="Search entries"
            placeholder="Item, lot, serial or who"
            className="w-56"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        )}
      </div>
      {found.length === 0 && words.trim() !== '' && <p className="py-2 text-soft">No entry has “{words.trim()}” in it.</p>}
      <ul>
        {entries.shown.map((e) => (
          <Entry
            key={e.id}
            delivery={delivery.id}
            entry={e}
            reversible={role === 'lead' && delivery.state === 'posted' && e.reversed === null}
            back={delivery.back}
            inspectable={role !== 'office' && delivery.state !== 'thrown' && e.reversed === null}
            isPosted={delivery.state === 'posted'}
            open={isOpen && (role === 'lead' || !e.handedIn)}
          />
        ))}
      </ul>
      <MoreRows of={entries} />
    </section>
  );
}

/** Whether each of the words is in what an entry says. */
function isMeant(entry: EntryOut, words: string): boolean {
  const said = [entry.code, entry.description, entry.lot, entry.serial, entry.sscc, entry.by, entry.goesTo?.address]
    .join(' ')
    .toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => said.includes(word));
}

/** Whether a serial or lot that comes back is one that left, and with what. */
function LeftWith({ entry, back }: { entry: EntryOut; back: NonNullable<Delivery['back']> }) {
  if (entry.serial === null && entry.lot === null) return null;
  const what = entry.serial === null ? `lot ${entry.lot}` : `serial ${entry.serial}`;
  if (entry.leftWith === null) return <Tag tone="wrong">{what} never left here</Tag>;
  if (back.shipment && back.shipment.number !== entry.leftWith)
    return (
      <Tag tone="strong">
        {what} left with {entry.leftWith}, not with {back.shipment.number}
      </Tag>
    );
  return <span className="block">left with {entry.leftWith}</span>;
}

function Entry({
  delivery,
  entry,
  open,
  reversible,
  inspectable,
  isPosted,
  back,
}: {
  delivery: number;
  entry: EntryOut;
  open: boolean;
  reversible: boolean;
  inspectable: boolean;
  isPosted: boolean;
  back: Delivery['back'];
}) {
  const [isLooking, setIsLooking] = useState(false);
  const [isPlacing, setIsPlacing] = useState(false);
  const change = useSend('receiving.change');
  const takeOut = useSend('receiving.takeOut', { onDone: () => toast(`${entry.qty} ${entry.code} taken out.`) });
  const [qty, setQty] = useState<string | null>(null);
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-line py-1">
      <span className="min-w-0 flex-1">
        <span className="block truncate">
          <ItemName item={entry.item} code={entry.code} description={entry.description} />
        </span>
        <span className="block text-sm text-soft">
          {[
            entry.lot && `lot ${entry.lot}`,
            entry.made && `made ${sayDay(entry.made)}`,
            entry.expires && `expires ${sayDay(entry.expires)}`,
            entry.serial && `serial ${entry.serial}`,
            entry.sscc && `in unit …${entry.sscc.slice(-6)}`,
            entry.cost && `at ${sayMoney(entry.cost)} each`,
            `${entry.by}, ${sayMoment(entry.at)}`,
          ]
            .filter(Boolean)
            .join(' · ')}
          {entry.changes.map((c) => (
            <span key={c.at} className="block">
              {c.was === c.now
                ? `date ${c.expiresWas ? sayDay(c.expiresWas) : 'none'} → ${c.expiresNow ? sayDay(c.expiresNow) : 'none'}`
                : `was ${c.was}`}
              , changed by {c.by}, {sayMoment(c.at)}
            </span>
          ))}{' '}
          {entry.reversed && (
            <span className="block">
              <Tag tone="strong">reversed</Tag> {entry.reversed.why}, {entry.reversed.by}, {sayMoment(entry.reversed.at)},{' '}
              <Link className="underline" to={`/ledger?document=${entry.reversed.id}`}>
                {entry.reversed.number}
              </Link>
            </span>
          )}
          {entry.expired && <Tag tone="wrong">expired: to quarantine</Tag>}
          {entry.goesTo && (
            <span className="block">
              {isPosted ? 'went' : 'goes'} into <Plate address={entry.goesTo.address} />
            </span>
          )}
          <Found entry={entry} />
          {back && <LeftWith entry={entry} back={back} />}
        </span>
      </span>
      {open && !entry.serial ? (
        <input
          aria-label={`Quantity of ${entry.code}`}
          className="w-20 rounded border-2 border-ink/60 bg-sheet px-1 text-right font-bold"
          value={qty ?? entry.qty}
          onChange={(e) => setQty(e.target.value)}
          onBlur={() => {
            if (qty !== null && qty !== entry.qty)
              void change.mutateAsync({ params: { id: delivery, entry: entry.id }, body: { qty } }).finally(() => setQty(null));
            else setQty(null);
          }}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />
      ) : (
        <strong className={entry.reversed ? 'line-through' : ''}>{entry.qty}</strong>
      )}
      <span className="flex basis-full flex-wrap justify-end gap-1">
        {open && !entry.expired && !isPlacing && (
          <Button look="quiet" onClick={() => setIsPlacing(true)}>
            Where to
          </Button>
        )}
        {inspectable && !isLooking && (
          <Button look="quiet" onClick={() => setIsLooking(true)}>
            Inspect
          </Button>
        )}
        {reversible && <Reverse delivery={delivery} entry={entry} />}
        {open && (
          <Button look="quiet" onClick={() => takeOut.mutate({ params: { id: delivery, entry: entry.id } })}>
            Take out
          </Button>
        )}
      </span>
      {isPlacing && <PlaceEntry delivery={delivery} entry={entry} onDone={() => setIsPlacing(false)} />}
      {isLooking && <InspectEntry delivery={delivery} entry={entry} isPosted={isPosted} onDone={() => setIsLooking(false)} />}
    </li>
  );
}

/** Takes a line of a posted receipt back: the goods go out of stock, and what is missing again is expected again. */
function Reverse({ delivery, entry }: { delivery: number; entry: EntryOut }) {
  const [reason, setReason] = useState<string | null>(null);
  const reverse = useSend('receiving.reverse', {
    onDone: (r) => {
      setReason(null);
      const from = r.broughtBack.map((b) => `${b.qty} from ${b.bin}`).join(', ');
      toast.success(`${r.number}: ${entry.qty} ${entry.code} are reversed${from && `; brought back: ${from}`}.`);
    },
  });
  if (reason === null)
    return (
      <Button look="quiet" onClick={() => setReason('')}>
        Reverse
      </Button>
    );
  return (
    <form
      className="flex items-end gap-1"
      onSubmit={(e) => {
        e.preventDefault();
        reverse.mutate({ params: { id: delivery, entry: entry.id }, body: { reason } });
      }}
    >
      <div className="w-36">
        <Field
          label={`Why is ${entry.code} reversed?`}
          autoFocus
          value={reason}
          maxLength={200}
          onChange={(e) => setReason(e.target.value)}
        />
      </div>
      <Button type="submit" look="wrong" disabled={!reason.trim() || reverse.isPending}>
        Reverse
      </Button>
      <Button look="quiet" aria-label="Let it stand" onClick={() => setReason(null)}>
        ×
      </Button>
    </form>
  );
}
