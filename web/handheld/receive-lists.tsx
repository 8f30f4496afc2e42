import { useState } from 'react';
import { formatQty } from '#core/base';
import { shortSscc } from '#core/floor';
import { entriesTogether, linesOf, type DeliveryJob, type HandEntry, type ReceiveChoice } from '#core/receiving';
import { Button, counted, Field, ItemPicture, sayMoment, TallyBar, Tag } from '#web/base';
import { theFloor } from '#web/hands';
import { TallDate } from './fields.tsx';

type Choose = (choice: ReceiveChoice) => void;
const fold = 'rounded border-2 border-line p-2';
const head = 'min-h-12 cursor-pointer text-lg leading-[3rem]';

/** Every line against what was expected (C7); those that differ stand first. */
export function Lines({ job }: { job: DeliveryJob }) {
  const { facts } = theFloor();
  const [shown, setShown] = useState(false);
  const lines = linesOf(job);
  const full = lines.filter((l) => l.standing === 'full').length;
  if (lines.length === 0) return null;
  return (
    <details className={fold} onToggle={(e) => setShown(e.currentTarget.open)}>
      <summary className={head}>
        {job.back ? `${counted(lines.length, 'line', 'lines')} that came back` : `${full} of ${lines.length} lines full`}
      </summary>
      {/* Drawn only while somebody looks: a scan must not wait for five hundred lines. */}
      {shown && (
        <ul>
          {[...lines.filter((l) => l.standing !== 'full'), ...lines.filter((l) => l.standing === 'full')].map((l) => (
            <li key={l.item} className="border-t border-line py-1.5">
              <span className="block truncate">
                <span className="code">{facts.item(l.item)?.code}</span> {facts.item(l.item)?.description}
              </span>
              <span className="flex items-center gap-3">
                <strong className="w-24">
                  {formatQty(l.arrived)} of {formatQty(l.expected)}
                </strong>
                {(!job.back || l.standing !== 'full') && (
                  <TallyBar wide expected={formatQty(l.expected)} arrived={formatQty(l.arrived)} standing={l.standing} />
                )}
              </span>
              {(job.lines.find((x) => x.item === l.item)?.waiting ?? 0) > 0 && <Tag tone="strong">orders wait for this</Tag>}
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}

/** What an entry is, in a line. */
export function entryWords(entry: HandEntry): string {
  const code = entry.item === null ? entry.code : theFloor().facts.item(entry.item)?.code;
  const to = entry.bin === null ? null : theFloor().facts.bin(entry.bin)?.address;
  return [
    `${formatQty(entry.qty)} ${code}`,
    entry.lot && `lot ${entry.lot}`,
    entry.serial,
    entry.sscc && `in ${shortSscc(entry.sscc)}`,
    to && `→ ${to}`,
  ]
    .filter(Boolean)
    .join(' ');
}

/** The last scans of a person, newest first: a unit that came by one scan is one of them. */
export function lastScans(job: DeliveryJob, mine: readonly HandEntry[]): { key: string; at: string; text: string }[] {
  const scans: { key: string; at: string; text: string }[] = [];
  const seen = new Set<string>();
  for (const e of mine) {
    if (scans.length >= SHOWN) break;
    if (seen.has(e.key)) continue;
    const together = entriesTogether(job, e);
    for (const other of together) seen.add(other.key);
    const text = together.length > 1 ? `unit ${shortSscc(e.sscc ?? '')}, ${counted(together.length, 'thing', 'things')}` : entryWords(e);
    scans.push({ key: e.key, at: e.at, text });
  }
  return scans;
}
/** More of them are not drawn. */
const SHOWN = 5;

/** The person's own entries (C3): each can be changed or taken out by itself, never many at a stroke. */
export function Entries({ mine, choose, undo }: { mine: readonly HandEntry[]; choose: Choose; undo: (key: string) => void }) {
  const [shown, setShown] = useState(false);
  if (mine.length < 2) return null;
  return (
    <details className={fold} onToggle={(e) => setShown(e.currentTarget.open)}>
      <summary className={head}>{mine.length} entries of mine</summary>
      {shown && (
        <ul>
          {mine.map((e) => (
            <li key={e.key} className="flex flex-wrap items-center gap-2 border-t border-line py-1.5">
              <span className="min-w-0 flex-1">
                <span className="block truncate font-semibold">{entryWords(e)}</span>
                <span className="text-sm text-soft">{sayMoment(e.at)}</span>
              </span>
              {e.serial === null && (
                <Button tall onClick={() => choose({ what: 'change', entry: e.key })}>
                  Change
                </Button>
              )}
              <Button tall onClick={() => undo(e.key)}>
                {e.bin === null ? 'Take out' : 'Not into the bin'}
              </Button>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}

const MOST_FOUND = 8;

/** Goods without a barcode (C4): found by words of their name. */
export function LookUp({ choose }: { choose: Choose }) {
  const { facts } = theFloor();
  const [words, setWords] = useState('');
  const [shown, setShown] = useState(false);
  const found = shown && words.trim().length > 1 ? facts.searchItems(words, MOST_FOUND) : [];
  return (
    <details className={fold} onToggle={(e) => setShown(e.currentTarget.open)}>
      <summary className={head}>No barcode? Look it up</summary>
      {shown && (
        <div className="space-y-2">
          <Field tall label="Words of its name" value={words} autoComplete="off" onChange={(e) => setWords(e.target.value)} />
          {words.trim().length > 1 && found.length === 0 && <p className="text-soft">Nothing here has these words.</p>}
          <ul>
            {found.map((item) => (
              <li key={item.id}>
                <button
                  type="button"
                  className="flex min-h-16 w-full items-center gap-3 border-t border-line text-left"
                  onClick={() => {
                    setWords('');
                    choose({ what: 'goods', item: item.id });
                  }}
                >
                  <ItemPicture item={item.id} />
                  <span className="min-w-0 flex-1">
                    <span className="code text-xl">{item.code}</span> {item.description}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
    </details>
  );
}

/** The supplier's own paper (C2): its number and date, now or later. */
export function Paper({ job, choose }: { job: DeliveryJob; choose: Choose }) {
  const [doc, setDoc] = useState(job.paper.doc);
  const [date, setDate] = useState(job.paper.date ?? '');
  return (
    <details className={fold}>
      <summary className={head}>
        {job.paper.doc === '' ? (job.back ? 'The customer’s paper' : 'The supplier’s paper') : `Paper ${job.paper.doc}`}
      </summary>
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          choose({ what: 'paper', doc, date: date || null });
        }}
      >
        <Field
          tall
          code
          label={job.back ? 'Its number' : 'Number of the invoice or delivery note'}
          value={doc}
          maxLength={60}
          onChange={(e) => setDoc(e.target.value)}
        />
        <TallDate label="Its date" value={date} onChange={setDate} />
        <Button tall type="submit" className="w-full" disabled={doc.trim() === job.paper.doc && (date || null) === job.paper.date}>
          Keep it
        </Button>
      </form>
    </details>
  );
}
