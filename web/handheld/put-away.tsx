import { useState } from 'react';
import type { Scanned } from '#contract/desk';
import type { PutAwayRow } from '#contract/moves';
import { Button, Empty, Plate, read, useRead } from '#web/base';
import { useMoveGoods } from './move-goods.tsx';
import { useNewBin } from './new-bin.tsx';
import { KeyQuantity, Screen, useQueue, type Answer } from './screen.tsx';
import { WhichLot } from './which-lot.tsx';

const WHY = { home: 'its home', sameLot: 'same lot lies there', sameItem: 'same item lies there', empty: 'nearest empty bin' } as const;

/** Putting away: scan the goods, see the bin and why, scan a bin. The bin that was scanned is where they go, suggested or not. */
export function PutAwayOnFloor({ from }: { from: 'arrivals' | 'unplaced' }) {
  const { data, refetch } = useRead('moves.putAway', { query: { from } });
  const [row, setRow] = useState<PutAwayRow | null>(null);
  const [lots, setLots] = useState<readonly PutAwayRow[]>([]);
  const [qty, setQty] = useState<string | null>(null);
  const newBin = useNewBin();
  const goods = useMoveGoods(async () => {
    await refetch();
    setRow(null);
    setQty(null);
  });
  const rows = data?.rows ?? [];
  const choose = (match: PutAwayRow): Answer => {
    setRow(match);
    setLots([]);
    setQty(null);
    return {
      tone: 'right',
      text: match.suggestion
        ? `To ${match.suggestion.address}: ${WHY[match.suggestion.why]}.`
        : 'No bin has room for it. Scan where you put it.',
    };
  };
  const { answer, busy, take, act } = useQueue(async (code) => {
    newBin.drop();
    const asked = lots.find((r) => r.lot === code.trim());
    if (asked) return choose(asked);
    const found = await read('desk.scan', { query: { code } });
    if (found.kind === 'item' || found.kind === 'serial' || found.kind === 'lot') {
      // Not on the list as this screen knows it: it may have been posted a moment ago.
      const here = rows.filter((r) => isMeant(r, found));
      const matches = byExpiry(here.length > 0 ? here : ((await refetch()).data?.rows.filter((r) => isMeant(r, found)) ?? []));
      const [match] = matches;
      if (!match) return { tone: 'wrong', text: `${found.code} is not ${from === 'arrivals' ? 'at arrivals' : 'among the unplaced'}.` };
      if (new Set(matches.map((m) => m.lot)).size > 1) {
        setRow(null);
        setLots(matches);
        return { tone: 'look', text: `Several lots lie here. ${match.lot} expires first: scan the lot that you take.` };
      }
      return choose(match);
    }
    if (found.kind === 'elsewhere')
      return { tone: 'wrong', text: `${found.text} is a bin of ${found.sites.join(' and ')}, not of this site.` };
    if (found.kind === 'unknown' && row) {
      const offer = newBin.offer(code);
      if (offer) return offer;
    }
    if (found.kind !== 'bin')
      return {
        tone: 'look',
        text: row
          ? 'Scan the bin where you put it.'
          : from === 'arrivals'
            ? 'Scan goods that lie at arrivals.'
            : 'Scan goods that have no bin yet.',
      };
    if (!row) return { tone: 'look', text: 'Scan the goods first, then the bin.' };
    return goods.move(
      {
        from: row.from,
        to: found.address,
        code: row.barcode ?? row.code,
        qty: qty ?? row.qty,
        ...(row.lot ? { lot: row.lot } : {}),
        ...(row.serial ? { serial: row.serial } : {}),
      },
      act,
    );
  });
  return (
    <Screen
      title={from === 'arrivals' ? 'Put away' : 'Put away unplaced'}
      sub={from === 'arrivals' ? `${rows.length} at arrivals` : `${rows.length} without a bin`}
      answer={answer}
      busy={busy}
      onScan={take}
      hint={row ? 'Scan the bin' : 'Scan goods'}
      last={goods.last}
    >
      {goods.override(act)}
      {newBin.panel(take)}
      {lots.length > 0 && (
        <WhichLot
          name={lots[0]?.code ?? ''}
          lots={lots.map((r) => ({ lot: r.lot ?? '', expires: r.expires, qty: r.qty }))}
          onLot={(lot) => {
            const meant = lots.find((r) => r.lot === lot);
            if (meant) act(() => Promise.resolve(choose(meant)));
          }}
        />
      )}
      {row ? (
        <section className="space-y-3">
          <p className="text-lg">
            <span className="code text-2xl">{row.code}</span> {row.description}
            {row.lot && (
              <span className="block text-soft">
                lot {row.lot}
                {row.expires && `, expires ${row.expires}`}
              </span>
            )}
            {row.serial && <span className="block text-soft">serial {row.serial}</span>}
          </p>
          {row.suggestion ? (
            <p className="text-center">
              <Plate address={row.suggestion.address} size="door" />
              <span className="block pt-1 text-soft">{WHY[row.suggestion.why]}</span>
            </p>
          ) : (
            <p className="text-xl font-semibold">No bin has room. Scan where you put it.</p>
          )}
          {row.serial ? (
            <p className="code text-6xl">1</p>
          ) : (
            <KeyQuantity label="How many" value={qty ?? row.qty} unit={row.unit} onKey={setQty} />
          )}
          <Button tall look="quiet" onClick={() => setRow(null)}>
            Something else first
          </Button>
        </section>
      ) : rows.length === 0 ? (
        <Empty title={from === 'arrivals' ? 'Arrivals are clear.' : 'Everything has its bin.'} />
      ) : (
        <ul>
          {rows.map((r) => (
            <li key={`${r.item}-${r.lot}-${r.serial}`}>
              <button
                type="button"
                onClick={() => setRow(r)}
                className="flex min-h-16 w-full items-center gap-3 border-b border-line text-left"
              >
                <span className="code w-16 text-right text-3xl">{r.qty}</span>
                <span className="min-w-0 flex-1">
                  <span className="code block text-lg leading-tight">{r.code}</span>
                  <span className="block truncate text-soft">
                    {r.description}
                    {r.lot && `, lot ${r.lot}`}
                    {r.expires && ` until ${r.expires}`}
                    {r.serial && `, ${r.serial}`}
                  </span>
                </span>
                {r.suggestion && <Plate address={r.suggestion.address} />}
              </button>
            </li>
          ))}
        </ul>
      )}
    </Screen>
  );
}

const byExpiry = (rows: readonly PutAwayRow[]): PutAwayRow[] =>
  [...rows].sort((a, b) => (a.expires ?? '9').localeCompare(b.expires ?? '9'));

/** Whether these goods are the ones that were scanned: the item, and the lot or serial where the code named one. */
function isMeant(row: PutAwayRow, found: Extract<Scanned, { kind: 'item' | 'lot' | 'serial' }>): boolean {
  if (row.item !== found.item) return false;
  const lot = found.kind === 'serial' ? null : found.lot;
  const serial = found.kind === 'lot' ? null : found.serial;
  return (!lot || row.lot === lot) && (!serial || row.serial === serial);
}
