import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { Button, Plate, read, useRead } from '#web/base';
import { useMoveGoods } from './move-goods.tsx';
import { useNewBin } from './new-bin.tsx';
import { chooseLot, stepMove, type LotHere, type MoveStep } from './move-step.ts';
import { WhichLot } from './which-lot.tsx';
import { KeyQuantity, Screen, useQueue } from './screen.tsx';

/** Bin to bin: scan from, the goods, how many, scan to. */
export function MoveOnFloor() {
  const [search] = useSearchParams();
  const given = search.get('from');
  const [at, setAt] = useState<MoveStep>(given ? { step: 'goods', from: given } : { step: 'from' });
  const newBin = useNewBin();
  const goods = useMoveGoods(() => setAt((was) => (was.step === 'to' ? { step: 'goods', from: was.from } : was)));
  const { data: bin } = useRead('desk.scan', { query: { code: at.step === 'from' ? '' : at.from } }, { enabled: at.step !== 'from' });
  const { data: contents } = useRead('places.bin', { params: { id: bin?.kind === 'bin' ? bin.bin : 0 } }, { enabled: bin?.kind === 'bin' });
  const lotsOf = (item: number): LotHere[] =>
    (contents?.contents ?? [])
      .flatMap((c) => (c.item === item && c.lot !== null ? [{ lot: c.lot, expires: c.expires, qty: c.qty }] : []))
      .sort((a, b) => (a.expires ?? '9').localeCompare(b.expires ?? '9'));
  const { answer, busy, take, act } = useQueue(async (code) => {
    newBin.drop();
    const found = await read('desk.scan', { query: { code } });
    if (found.kind === 'elsewhere')
      return { tone: 'wrong', text: `${found.text} is a bin of ${found.sites.join(' and ')}, not of this site.` };
    if (found.kind === 'unknown' && at.step === 'to') {
      const offer = newBin.offer(code);
      if (offer) return offer;
    }
    const outcome = stepMove(at, found, code, lotsOf);
    if (outcome.kind === 'wrong') return { tone: 'wrong', text: outcome.says };
    if (outcome.kind === 'go') {
      setAt(outcome.next);
      return { tone: outcome.next.step === 'lot' ? 'look' : 'right', text: outcome.says };
    }
    if (at.step !== 'to') return null;
    return goods.move(
      {
        from: at.from,
        to: outcome.to,
        code: at.code,
        qty: at.qty,
        ...(at.lot ? { lot: at.lot } : {}),
        ...(at.serial ? { serial: at.serial } : {}),
      },
      act,
    );
  });
  return (
    <Screen
      title="Move goods"
      answer={answer}
      busy={busy}
      onScan={take}
      hint={{ from: 'Scan the bin you take from', goods: 'Scan the goods', lot: 'Scan the lot', to: 'Scan the bin it goes to' }[at.step]}
      last={goods.last}
    >
      {goods.override(act)}
      {newBin.panel(take)}
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
          {at.step === 'lot' && (
            <WhichLot
              name={at.name}
              lots={at.lots}
              onLot={(lot) => {
                const outcome = chooseLot(at, lot);
                if (outcome.kind === 'go') setAt(outcome.next);
              }}
            />
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
                      {c.expires && ` until ${c.expires}`}
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
