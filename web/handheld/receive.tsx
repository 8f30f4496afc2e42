import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { Button, Empty, Field, read, Refused, send, TallyBar, Tag, Trouble, useRead } from '#web/base';
import { KeyQuantity, Screen, useQueue, type Answer } from './screen.tsx';

/** What the screen waits for after a scan that was not enough by itself. */
type Asking =
  | { step: 'goods' }
  | { step: 'lot'; code: string; name: string }
  | { step: 'date'; code: string; name: string; lot: string }
  | { step: 'whichDate'; code: string; name: string; lot: string; known: string; given: string }
  | { step: 'serial'; code: string; name: string }
  | { step: 'notOrdered'; code: string; name: string; lot?: string | undefined; expires?: string | undefined }
  | { step: 'unknown'; code: string };

type More = { lot?: string | undefined; expires?: string | undefined; serial?: string | undefined; takeAnyway?: boolean | undefined };

/** Receiving on the floor: each scan is one of the pack scanned; the next scan saves the last one. Nothing here is stock yet. */
export function ReceiveOnFloor() {
  const id = Number(useParams()['id']);
  const go = useNavigate();
  const { data: delivery, error, refetch } = useRead('receiving.delivery', { params: { id } });
  const { data: me } = useRead('people.me', {});
  const [asking, setAsking] = useState<Asking>({ step: 'goods' });
  const [lots, setLots] = useState<Readonly<Record<string, More>>>({});

  const enter = async (code: string, more: More = {}): Promise<Answer> => {
    try {
      const { entry, line } = await send('receiving.scan', {
        params: { id },
        body: { code, ...more, takeAnyway: more.takeAnyway ?? false, device: 'handheld' },
      });
      // The next scan of the same code is the same lot, until another is said.
      if (entry.lot) setLots((was) => ({ ...was, [code]: { lot: entry.lot ?? undefined, expires: entry.expires ?? undefined } }));
      setAsking(entry.serial ? { step: 'serial', code, name: entry.code } : { step: 'goods' });
      await refetch();
      const over = line.standing === 'over';
      return {
        tone: over || entry.expired ? 'look' : 'right',
        text: `${entry.code}: ${line.arrived}${line.expected === '0' ? '' : ` of ${line.expected}`}${over ? ', more than expected' : ''}${entry.expired ? ', expired: goes to quarantine' : ''}`,
      };
    } catch (refused) {
      if (!(refused instanceof Refused)) throw refused;
      const name = String(refused.problem['item'] ?? '');
      const ask: Partial<Record<string, Asking>> = {
        'receiving.lotWanted': { step: 'lot', code, name },
        'receiving.dateWanted': { step: 'date', code, name, lot: more.lot ?? String(refused.problem['lot'] ?? '') },
        'receiving.dateDiffers': {
          step: 'whichDate',
          code,
          name,
          lot: String(refused.problem['lot'] ?? ''),
          known: String(refused.problem['known'] ?? ''),
          given: String(refused.problem['given'] ?? ''),
        },
        'receiving.serialWanted': { step: 'serial', code, name },
        'receiving.notOrdered': { step: 'notOrdered', code, name, lot: more.lot, expires: more.expires },
        'items.unknownCode': { step: 'unknown', code },
      };
      const next = ask[refused.problem.code];
      if (!next) throw refused;
      setAsking(next);
      return { tone: 'look', text: refused.message };
    }
  };

  const { answer, busy, take, act } = useQueue(async (code) => {
    if (asking.step === 'lot') {
      // Whoever scans other goods instead of a lot has gone on: the lot question is dropped.
      return enter(asking.code, { lot: code });
    }
    if (asking.step === 'serial') {
      const found = await read('desk.scan', { query: { code } });
      return found.kind === 'item' ? enter(code, lots[code]) : enter(asking.code, { serial: code });
    }
    return enter(code, lots[code]);
  });

  if (!delivery)
    return (
      <Screen title="Receive" answer={answer} onScan={take} hint="…">
        <Trouble error={error} />
      </Screen>
    );
  // Last scans and undo are this person's own, also where several scan into one delivery.
  const mine = delivery.entryList.filter((e) => e.byId === me?.me?.id);
  const last = mine.slice(0, 3);
  const latest = last[0];
  const line = latest && delivery.lines.find((l) => l.item === latest.item);
  const undo = (entry: number) => () =>
    act(async () => {
      await send('receiving.takeOut', { params: { id, entry } });
      return { tone: 'look', text: 'Taken out again.' };
    });
  return (
    <Screen
      title={`Receive ${delivery.purchaseOrder ?? delivery.number}`}
      sub={delivery.supplier}
      answer={answer}
      busy={busy}
      onScan={take}
      hint={
        {
          goods: 'Scan goods',
          lot: 'Scan or key the lot',
          date: 'Key the date above',
          whichDate: 'Scan other goods',
          serial: 'Scan the serial',
          notOrdered: 'Scan other goods',
          unknown: 'Scan other goods',
        }[asking.step]
      }
      last={last.map((e) => ({
        at: e.at,
        text: `${e.qty} ${e.code}${e.lot ? ` lot ${e.lot}` : ''}${e.serial ? ` ${e.serial}` : ''}`,
        undo: undo(e.id),
      }))}
    >
      {asking.step === 'lot' && (
        <p className="rounded border-4 border-next bg-sheet p-3 text-xl">
          <strong>{asking.name}</strong>: which lot? Scan it, or key it below.
        </p>
      )}
      {asking.step === 'serial' && (
        <p className="rounded border-4 border-next bg-sheet p-3 text-xl">
          <strong>{asking.name}</strong>: scan the serial of each one.
        </p>
      )}
      {asking.step === 'date' && (
        <AskDate asking={asking} onDate={(expires) => act(() => enter(asking.code, { lot: asking.lot, expires }))} />
      )}
      {asking.step === 'whichDate' && (
        <div className="space-y-2 rounded border-4 border-next bg-sheet p-3">
          <p className="text-xl">
            <strong>{asking.name}</strong>, lot {asking.lot}, is known to expire on {asking.known}; this says {asking.given}. One lot has
            one date.
          </p>
          <Button
            tall
            look="next"
            className="w-full"
            onClick={() => act(() => enter(asking.code, { lot: asking.lot, expires: asking.known }))}
          >
            It is {asking.known}
          </Button>
          <Button
            tall
            className="w-full"
            onClick={() => {
              setAsking({ step: 'lot', code: asking.code, name: asking.name });
              act(() => Promise.resolve({ tone: 'look', text: 'Nothing was entered. Scan or key the lot.' }));
            }}
          >
            It is another lot
          </Button>
        </div>
      )}
      {asking.step === 'notOrdered' && (
        <div className="space-y-2 rounded border-4 border-next bg-sheet p-3">
          <p className="text-xl">
            <strong>{asking.name}</strong> is not on this order.
          </p>
          <Button
            look="next"
            tall
            className="w-full"
            onClick={() => act(() => enter(asking.code, { takeAnyway: true, lot: asking.lot, expires: asking.expires }))}
          >
            Take it anyway
          </Button>
          <Button
            tall
            className="w-full"
            onClick={() => {
              setAsking({ step: 'goods' });
              act(() => Promise.resolve({ tone: 'look', text: 'Set aside. Nothing was entered.' }));
            }}
          >
            Not this one
          </Button>
        </div>
      )}
      {asking.step === 'unknown' && (
        <TieUnknown
          code={asking.code}
          onTied={() => {
            setAsking({ step: 'goods' });
            take(asking.code);
          }}
        />
      )}
      {asking.step === 'goods' && latest && line && (
        <section aria-label="Last entry" className="rounded border-2 border-ink bg-sheet p-3">
          <p className="text-lg">
            <span className="code text-2xl">{latest.code}</span> {latest.description}
          </p>
          <p>
            <span className="code text-6xl" data-testid="arrived">
              {line.arrived}
            </span>{' '}
            <span className="text-xl text-soft">{line.expected === '0' ? line.unit : `of ${line.expected} ${line.unit}`}</span>
          </p>
          <TallyBar wide expected={line.expected} arrived={line.arrived} standing={line.standing} />
          {line.waitingOrders > 0 && (
            <p className="pt-2">
              <Tag tone="strong">
                {line.waitingOrders} {line.waitingOrders === 1 ? 'order waits' : 'orders wait'} for this
              </Tag>
            </p>
          )}
          {!latest.serial && (
            <div className="pt-2">
              <KeyQuantity
                label="This scan"
                value={latest.qty}
                unit={latest.unit}
                onKey={(qty) =>
                  act(async () => {
                    await send('receiving.change', { params: { id, entry: latest.id }, body: { qty } });
                    return { tone: 'right', text: `${latest.code}: ${qty}` };
                  })
                }
              />
            </div>
          )}
        </section>
      )}
      {asking.step === 'goods' && !latest && (
        <Empty title="Scan the first piece.">Each scan is one of the pack that you scan; or scan once and key the quantity.</Empty>
      )}
      <details className="rounded border-2 border-line p-2">
        <summary className="min-h-12 cursor-pointer text-lg leading-[3rem]">
          {delivery.lines.filter((l) => l.standing === 'full').length} of {delivery.lines.length} lines full
        </summary>
        <ul>
          {delivery.lines.map((l) => (
            <li key={l.item} className="border-t border-line py-1.5">
              <span className="block truncate">
                <span className="code">{l.code}</span> {l.description}
              </span>
              <span className="flex items-center gap-3">
                <strong className="w-20">
                  {l.arrived} of {l.expected}
                </strong>
                <TallyBar wide expected={l.expected} arrived={l.arrived} standing={l.standing} />
              </span>
            </li>
          ))}
        </ul>
      </details>
      {delivery.state === 'scanning' && delivery.entries > 0 && (asking.step === 'goods' || asking.step === 'serial') && (
        <Button
          tall
          className="w-full"
          onClick={() =>
            act(async () => {
              await send('receiving.finish', { params: { id } });
              void go('/h');
              return null;
            })
          }
        >
          All scanned: hand in for review
        </Button>
      )}
      {delivery.state !== 'scanning' && (
        <p className="text-lg font-semibold">This delivery is {delivery.state === 'review' ? 'handed in for review' : delivery.state}.</p>
      )}
    </Screen>
  );
}

function AskDate({ asking, onDate }: { asking: Extract<Asking, { step: 'date' }>; onDate: (date: string) => void }) {
  const [date, setDate] = useState('');
  return (
    <form
      className="space-y-2 rounded border-4 border-next bg-sheet p-3"
      onSubmit={(e) => {
        e.preventDefault();
        onDate(date);
      }}
    >
      <p className="text-xl">
        <strong>{asking.name}</strong>, lot {asking.lot}: when does it expire?
      </p>
      <Field label="Expires" type="date" tall value={date} onChange={(e) => setDate(e.target.value)} />
      <Button look="next" tall type="submit" className="w-full" disabled={!date}>
        Enter it
      </Button>
    </form>
  );
}

function TieUnknown({ code, onTied }: { code: string; onTied: () => void }) {
  const [q, setQ] = useState('');
  const [problem, setProblem] = useState<Error | null>(null);
  const { data } = useRead('items.search', { query: { q, limit: 8 } }, { enabled: q.length > 1, keep: true });
  const tie = async (item: number): Promise<void> => {
    try {
      const record = await read('items.item', { params: { id: item } });
      await send('items.addBarcode', { params: { id: item }, body: { code, pack: record.packs[0]?.id ?? 0 } });
      onTied();
    } catch (e) {
      setProblem(e as Error);
    }
  };
  return (
    <section className="space-y-2 rounded border-4 border-next bg-sheet p-3">
      <p className="text-xl">
        Nobody knows <strong className="code">{code}</strong> yet. Which item is it? It stays tied.
      </p>
      <Field label="Code or words" tall value={q} onChange={(e) => setQ(e.target.value)} />
      <Trouble error={problem} />
      <ul>
        {data?.items.map((i) => (
          <li key={i.id}>
            <button type="button" className="min-h-14 w-full border-b border-line text-left" onClick={() => void tie(i.id)}>
              <span className="code text-lg">{i.code}</span> {i.description}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
