import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { Button, Plate, read, send, useRead } from '#web/base';
import { stepMove, type MoveStep } from './move-step.ts';
import { KeyQuantity, Screen, useQueue, type Scan } from './screen.tsx';

/** Bin to bin: scan from, the goods, how many, scan to. */
export function MoveOnFloor() {
  const [search] = useSearchParams();
  const given = search.get('from');
  const [at, setAt] = useState<MoveStep>(given ? { step: 'goods', from: given } : { step: 'from' });
  const [last, setLast] = useState<readonly Scan[]>([]);
  const { data: bin } = useRead('desk.scan', { query: { code: at.step === 'from' ? '' : at.from } }, { enabled: at.step !== 'from' });
  const { data: contents } = useRead('places.bin', { params: { id: bin?.kind === 'bin' ? bin.bin : 0 } }, { enabled: bin?.kind === 'bin' });
  const { answer, busy, take, act } = useQueue(async (code) => {
    const outcome = stepMove(at, await read('desk.scan', { query: { code } }), code);
    if (outcome.kind === 'wrong') return { tone: 'wrong', text: outcome.says };
    if (outcome.kind === 'go') {
      setAt(outcome.next);
      return { tone: 'right', text: outcome.says };
    }
    if (at.step !== 'to') return null;
    const done = await send('moves.move', {
      body: {
        from: at.from,
        to: outcome.to,
        code: at.code,
        qty: at.qty,
        ...(at.lot ? { lot: at.lot } : {}),
        ...(at.serial ? { serial: at.serial } : {}),
        device: 'handheld',
      },
    });
    const text = `${done.number}: ${done.qty} ${done.code} ${done.from} → ${done.to}`;
    const undo = (): void =>
      act(async () => {
        await send('stock.undo', { params: { id: done.document }, body: { reason: 'Undone on the handheld' } });
        setLast((was) => was.filter((s) => s.at !== done.at));
        return { tone: 'look', text: `${done.number} is undone.` };
      });
    setLast((was) => [{ at: done.at, text, undo }, ...was]);
    setAt({ step: 'goods', from: at.from });
    return { tone: 'right', text: `${done.qty} ${done.code} is in ${done.to}.` };
  });
  return (
    <Screen
      title="Move goods"
      answer={answer}
      busy={busy}
      onScan={take}
      hint={{ from: 'Scan the bin you take from', goods: 'Scan the goods', to: 'Scan the bin it goes to' }[at.step]}
      last={last}
    >
      {at.step === 'from' ? (
        <p className="pt-6 text-center text-2xl">Scan the bin from which you take.</p>
      ) : (
        <section className="space-y-3">
          <p className="flex items-center gap-3">
            <span className="text-soft">from</span>
            <Plate address={at.from} size="door" />
          </p>
          {at.step === 'to' && (
            <>
              <p className="text-xl font-semibold">
                {at.name}
                {(at.lot || at.serial) && (
                  <span className="block font-normal text-soft">
                    {at.lot && `lot ${at.lot}`}
                    {at.serial && `serial ${at.serial}`}
                  </span>
                )}
              </p>
              {at.serial ? (
                <p className="code text-6xl">1</p>
              ) : (
                <KeyQuantity label="How many" value={at.qty} unit={at.unit} onKey={(qty) => setAt({ ...at, qty })} />
              )}
              <p className="rounded border-4 border-next bg-sheet p-3 text-center text-xl">Now scan the bin where it goes.</p>
            </>
          )}
          {at.step === 'goods' && (
            <ul aria-label="In this bin">
              {contents?.contents.map((c, i) => (
                <li key={i} className="flex items-baseline gap-3 border-b border-line py-2">
                  <span className="code w-16 text-right text-3xl">{c.qty}</span>
                  <span className="min-w-0 flex-1">
                    <span className="code block text-lg">{c.code}</span>
                    <span className="block truncate text-soft">
                      {c.description}
                      {c.lot && `, lot ${c.lot}`}
                      {c.serial && `, ${c.serial}`}
                    </span>
                  </span>
                </li>
              ))}
              {contents?.contents.length === 0 && <li className="py-3 text-lg text-soft">The bin is empty.</li>}
            </ul>
          )}
          <Button
            look="quiet"
            tall
            onClick={() => {
              setAt({ step: 'from' });
              act(() => Promise.resolve(null));
            }}
          >
            Another bin
          </Button>
        </section>
      )}
    </Screen>
  );
}
