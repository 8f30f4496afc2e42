import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { Button, Empty, Plate, read, Refused, send, Tag, Trouble, useRead } from '#web/base';
import { KeyQuantity, Screen, useQueue, type Answer } from './screen.tsx';

const TROUBLES = [
  ['short', 'Too few there'],
  ['damaged', 'Damaged'],
  ['notFound', 'Not found'],
] as const;

/** One walk: the next stop as a door plate; scan the bin, scan the goods, key a number if there are more; at the end, put down. */
export function PickOnFloor() {
  const id = Number(useParams()['id']);
  const go = useNavigate();
  const { data: round, error, refetch } = useRead('picking.round', { params: { id } });
  const [atBin, setAtBin] = useState<number | null>(null);
  const [serialFor, setSerialFor] = useState<string | null>(null);
  const [trouble, setTrouble] = useState(false);
  const [lotFor, setLotFor] = useState<{ code: string; qty?: string } | null>(null);
  // The number that is keyed after a lot was scanned is of that lot.
  const [lotTaken, setLotTaken] = useState<{ pick: number; lot: string } | null>(null);
  const stops = round?.stopList ?? [];
  const openOf = (p: { qty: string; picked: string }): number => Number(p.qty) - Number(p.picked);
  const stop = stops.find((s) => s.picks.some((p) => openOf(p) > 0));
  const picks = stop?.picks.filter((p) => openOf(p) > 0) ?? [];
  const pick = picks[0];

  const takeGoods = async (code: string, more: { qty?: string; serial?: string; lot?: string } = {}): Promise<Answer> => {
    if (!stop || !pick) return { tone: 'look', text: 'Everything is picked. Scan the packing bin.' };
    // Several lines may want goods from this bin: the one whose item was scanned is meant.
    const found = picks.length > 1 ? await read('desk.scan', { query: { code } }) : null;
    const meant = (found?.kind === 'item' && picks.find((p) => p.item === found.item)) || pick;
    try {
      const reply = await send('picking.pick', {
        params: { id, pick: meant.id },
        body: { bin: stop.address, code, ...more, device: 'handheld' },
      });
      await refetch();
      if (reply.open === '0') setSerialFor(null);
      if (more.lot) setLotTaken({ pick: meant.id, lot: more.lot });
      setLotFor(null);
      if (reply.roundOpen === 0) return { tone: 'right', text: 'Round picked. Put it down at a packing bin.' };
      return {
        tone: 'right',
        text:
          reply.open === '0'
            ? `${meant.code}: all ${reply.picked} taken. Into slot ${meant.slot}.`
            : `${meant.code}: ${reply.picked} taken, ${reply.open} to go. Slot ${meant.slot}.`,
      };
    } catch (refused) {
      if (refused instanceof Refused && refused.problem.code === 'picking.serialWanted') {
        setSerialFor(code);
        return { tone: 'look', text: refused.message };
      }
      if (refused instanceof Refused && refused.problem.code === 'picking.whichLot') {
        setLotFor({ code, ...(more.qty ? { qty: more.qty } : {}) });
        return { tone: 'look', text: refused.message };
      }
      throw refused;
    }
  };

  const { answer, busy, take, act } = useQueue(async (code) => {
    if (!round) return null;
    if (!stop) {
      const down = await send('picking.putDown', { params: { id }, body: { bin: code, device: 'handheld' } });
      void go('/h');
      return { tone: 'right', text: `${down.pieces} pieces put down at ${down.bin}.` };
    }
    if (lotFor && atBin === stop.bin) {
      // Where a lot is asked for, goods or a bin are never taken for one; they break out.
      const found = await read('desk.scan', { query: { code } });
      if (found.kind !== 'item' && found.kind !== 'bin')
        return takeGoods(lotFor.code, { ...(lotFor.qty ? { qty: lotFor.qty } : {}), lot: code.trim() });
      setLotFor(null);
    }
    if (serialFor && atBin === stop.bin) return takeGoods(serialFor, { serial: code });
    if (atBin !== stop.bin) {
      const found = await read('desk.scan', { query: { code } });
      if (found.kind !== 'bin') return { tone: 'wrong', text: `Scan the bin first: ${stop.address}.` };
      if (found.bin !== stop.bin) return { tone: 'wrong', text: `Wrong bin: this is ${found.address}. Go to ${stop.address}.` };
      setAtBin(stop.bin);
      return { tone: 'right', text: `Right bin. Take ${pick ? openOf(pick) : ''} ${pick?.code ?? ''}.` };
    }
    return takeGoods(code);
  });

  const report = (kind: (typeof TROUBLES)[number][0]): void =>
    act(async () => {
      if (!pick) return null;
      setTrouble(false);
      const r = await send('picking.trouble', { params: { id, pick: pick.id }, body: { kind } });
      await refetch();
      if (r.bins.length === 0) return { tone: 'look', text: `Noted. ${r.missing} are missing; the office sees it.` };
      return {
        tone: 'look',
        text: `Noted. Get ${r.replanned} from ${r.bins.join(', ')} instead${r.missing === '0' ? '.' : `; ${r.missing} are missing.`}`,
      };
    });

  if (!round)
    return (
      <Screen title="Round" answer={answer} onScan={take} hint="…">
        <Trouble error={error} />
      </Screen>
    );
  const stopNumber = stop ? stops.indexOf(stop) + 1 : stops.length;
  const here = stop !== undefined && atBin === stop.bin;
  return (
    <Screen
      title={round.number}
      sub={
        stop
          ? `Stop ${stopNumber} of ${stops.length} · ${round.cart} · ${round.orders.join(', ')}`
          : `${round.cart} · ${round.orders.join(', ')}`
      }
      answer={answer}
      busy={busy}
      onScan={take}
      hint={
        !stop ? 'Scan the packing bin' : lotFor ? 'Scan the lot' : serialFor ? 'Scan the serial' : here ? 'Scan the goods' : 'Scan the bin'
      }
    >
      {round.state !== 'open' && <Empty title="This round is put down.">Its orders wait at the bench.</Empty>}
      {round.state === 'open' && !stop && (
        <section className="space-y-4 pt-6 text-center">
          <p className="text-2xl">Everything is on the cart.</p>
          <p className="text-xl">Put it down, and scan the packing bin:</p>
          {round.packingBin && <Plate address={round.packingBin} size="door" />}
        </section>
      )}
      {stop && pick && (
        <section className="space-y-3">
          <p className={`rounded border-4 p-2 text-center ${here ? 'border-settled' : 'border-next'}`}>
            <Plate address={stop.address} size="door" />
            <span className="block text-soft">
              {stop.zone}
              {here ? ', right bin ✓' : ''}
            </span>
          </p>
          <div>
            <p className="text-lg">
              <span className="code text-3xl" data-testid="item-code">
                {pick.code}
              </span>{' '}
              {pick.description}
            </p>
            {pick.lot && (
              <p className="text-lg">
                lot <strong className="code text-xl">{pick.lot}</strong>
                {pick.expires && <span className="text-soft"> expires {pick.expires}</span>}
              </p>
            )}
            <p className="flex items-end gap-3">
              <span className="code text-7xl leading-none" data-testid="to-take">
                {openOf(pick)}
              </span>
              <span className="text-xl text-soft">{pick.unit} to take</span>
              <span className="ml-auto text-right">
                <Tag tone="strong">slot {pick.slot}</Tag>
                <span className="block text-sm text-soft">{pick.order}</span>
              </span>
            </p>
          </div>
          {lotFor && pick.lot && (
            <div className="space-y-2 rounded border-4 border-next bg-sheet p-3">
              <p className="text-xl">Several lots lie here. Scan the lot that you take.</p>
              <Button
                tall
                look="next"
                className="w-full"
                onClick={() => act(() => takeGoods(lotFor.code, { ...(lotFor.qty ? { qty: lotFor.qty } : {}), lot: pick.lot ?? '' }))}
              >
                It is {pick.lot}
              </Button>
            </div>
          )}
          {serialFor && <p className="rounded border-4 border-next bg-sheet p-3 text-xl">Scan the serial of the one you take.</p>}
          {here && !serialFor && pick.picked !== '0' && openOf(pick) > 0 && (
            <KeyQuantity
              label="Taken so far"
              value={pick.picked}
              unit={pick.unit}
              onKey={(total) =>
                act(() =>
                  takeGoods(pick.barcode ?? pick.code, {
                    qty: String(Math.round((Number(total) - Number(pick.picked)) * 1000) / 1000),
                    ...(lotTaken?.pick === pick.id ? { lot: lotTaken.lot } : {}),
                  }),
                )
              }
            />
          )}
          {picks.length > 1 && <p className="text-soft">and {picks.length - 1} more from this bin</p>}
          {trouble ? (
            <div className="grid gap-2">
              {TROUBLES.map(([kind, label]) => (
                <Button key={kind} look="wrong" tall onClick={() => report(kind)}>
                  {label}
                </Button>
              ))}
              <Button look="quiet" tall onClick={() => setTrouble(false)}>
                No trouble
              </Button>
            </div>
          ) : (
            <Button tall className="w-full" onClick={() => setTrouble(true)}>
              Trouble here …
            </Button>
          )}
        </section>
      )}
    </Screen>
  );
}
