import { useState } from 'react';
import { useParams } from 'react-router';
import { Button, Plate, read, Refused, send, Progress, Trouble, useRead } from '#web/base';
import { KeyQuantity, Screen, useQueue, type Answer } from './screen.tsx';

/** Counting: scan a bin, then what lies in it; each scan is one more, or key the number. The next bin closes this one. */
export function CountOnFloor() {
  const id = Number(useParams()['id']);
  const { data: count, error } = useRead('counting.count', { params: { id } });
  const { data: me } = useRead('people.me', {});
  const [bin, setBin] = useState<string | null>(null);
  const [asking, setAsking] = useState<{ code: string; what: 'lot' | 'serial'; name: string } | null>(null);
  const [lots, setLots] = useState<Readonly<Record<string, string>>>({});

  const tally = async (code: string, more: { lot?: string; serial?: string; qty?: string } = {}): Promise<Answer> => {
    if (!bin) return { tone: 'wrong', text: 'Scan the bin first.' };
    try {
      const reply = await send('counting.tally', { params: { id }, body: { bin, code, ...more, device: 'handheld' } });
      if (more.lot) setLots((was) => ({ ...was, [code]: more.lot ?? '' }));
      setAsking(reply.tally.serial ? { code, what: 'serial', name: reply.tally.code } : null);
      return { tone: 'right', text: `${reply.tally.code}: ${reply.binTotal} in ${bin}` };
    } catch (refused) {
      const what =
        refused instanceof Refused
          ? ({ 'counting.lotWanted': 'lot', 'counting.serialWanted': 'serial' } as const)[refused.problem.code as 'counting.lotWanted']
          : undefined;
      if (!what || !(refused instanceof Refused)) throw refused;
      setAsking({ code, what, name: String(refused.problem['item']) });
      return { tone: 'look', text: refused.message };
    }
  };

  const { answer, busy, take, act } = useQueue(async (code) => {
    if (asking?.what === 'lot') return tally(asking.code, { lot: code });
    const found = await read('desk.scan', { query: { code } });
    if (found.kind === 'bin') {
      if (!count?.binList.some((b) => b.bin === found.bin))
        return { tone: 'wrong', text: `Bin ${found.address} is not part of this count.` };
      setBin(found.address);
      setAsking(null);
      setLots({});
      return { tone: 'right', text: `Counting ${found.address}.` };
    }
    if (asking?.what === 'serial' && found.kind !== 'item') return tally(asking.code, { serial: code });
    return tally(code, found.kind === 'item' && !found.lot && lots[code] ? { lot: lots[code] } : {});
  });

  if (!count)
    return (
      <Screen title="Count" answer={answer} onScan={take} hint="…">
        <Trouble error={error} />
      </Screen>
    );
  const here = count.binList.find((b) => b.address === bin);
  const next = count.binList.find((b) => !b.counted && b.address !== bin);
  const mine = here?.tallies.filter((t) => t.byId === me?.me?.id) ?? [];
  const latest = mine[0];
  const verdict = (said: 'none' | 'asExpected'): void =>
    act(async () => {
      if (!bin) return null;
      await send('counting.verdict', { params: { id }, body: { bin, verdict: said } });
      setAsking(null);
      return { tone: 'right', text: said === 'none' ? `${bin}: none found.` : `${bin}: as expected.` };
    });
  const takeOut = (tallyId: number) => () =>
    act(async () => {
      await send('counting.takeOut', { params: { id, tally: tallyId } });
      return { tone: 'look', text: 'Taken out again.' };
    });
  const setNumber = (qty: string): void =>
    act(async () => {
      if (!latest || !bin) return null;
      // The keyed number first: if it is refused, the scan that it replaces still stands.
      const { tally: keyed } = await send('counting.tally', {
        params: { id },
        body: { bin, code: latest.code, qty, ...(latest.lot ? { lot: latest.lot } : {}), device: 'handheld' },
      });
      await send('counting.takeOut', { params: { id, tally: latest.id } });
      return { tone: 'right', text: `${keyed.code}: ${keyed.qty}` };
    });
  return (
    <Screen
      title={`Count ${count.zone}`}
      sub={`${count.number} · ${count.counted} of ${count.bins} bins`}
      answer={answer}
      busy={busy}
      onScan={take}
      hint={!bin ? 'Scan a bin' : asking ? `Scan the ${asking.what}` : 'Scan goods, or the next bin'}
      last={mine.slice(0, 3).map((t) => ({
        at: t.at,
        text: `${t.qty} ${t.code}${t.lot ? ` lot ${t.lot}` : ''}${t.serial ? ` ${t.serial}` : ''}`,
        undo: takeOut(t.id),
      }))}
    >
      <Progress done={count.counted} of={count.bins} what="bins" />
      {!here ? (
        <div className="pt-6 text-center">
          <p className="pb-3 text-2xl">Scan the bin that you count.</p>
          {next && (
            <>
              <p className="text-soft">the next on the way</p>
              <Plate address={next.address} size="door" />
            </>
          )}
        </div>
      ) : (
        <section className="space-y-3">
          <p className="text-center">
            <Plate address={here.address} size="door" />
          </p>
          {asking && (
            <p className="rounded border-4 border-next bg-sheet p-3 text-xl">
              <strong>{asking.name}</strong>: scan the {asking.what}.
            </p>
          )}
          {!asking && latest && (
            <>
              <p className="text-lg">
                <span className="code text-2xl">{latest.code}</span> {latest.description}
              </p>
              {!latest.serial && <KeyQuantity label="This scan" value={latest.qty} unit={latest.unit} onKey={setNumber} />}
            </>
          )}
          {here.verdict && <p className="text-xl font-semibold">{here.verdict === 'none' ? 'None found.' : 'As expected.'}</p>}
          {here.tallies.length === 0 && !here.verdict && (
            <div className="grid grid-cols-1 gap-2">
              <Button tall onClick={() => verdict('none')}>
                Nothing in this bin
              </Button>
              {!count.blind && (
                <Button tall onClick={() => verdict('asExpected')}>
                  As expected
                </Button>
              )}
            </div>
          )}
          {next && here.counted && (
            <p className="text-center text-soft">
              then <Plate address={next.address} />
            </p>
          )}
        </section>
      )}
    </Screen>
  );
}
