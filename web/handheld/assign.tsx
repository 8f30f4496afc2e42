import { useState } from 'react';
import { Button, Empty, Plate, read, send } from '#web/base';
import { useQueue } from './queue.ts';
import { Screen, type LastScan } from './screen.tsx';
import type { Answer } from '#web/hands';

type First = { kind: 'bin'; id: number; address: string } | { kind: 'item'; id: number; code: string; description: string };
type Pair = { bin: { id: number; address: string }; item: { id: number; code: string } };

/** Assigning items to bins by scan (A6): a bin, then item after item; or an item, then bins. The first scan says which. */
export function AssignHomes() {
  const [first, setFirst] = useState<First | null>(null);
  const [role, setRole] = useState<'face' | 'reserve'>('face');
  const [done, setDone] = useState<readonly Pair[]>([]);
  const [last, setLast] = useState<readonly LastScan[]>([]);
  const assign = async (pair: Pair): Promise<Answer> => {
    const reply = await send('items.assign', { body: { pairs: [{ bin: pair.bin.address, item: pair.item.code }], role } });
    setDone((was) => [pair, ...was]);
    const text = `${pair.item.code} lives in ${pair.bin.address}`;
    const at = new Date().toISOString();
    const undo = (): void =>
      act(async () => {
        await send('items.unassign', { body: { pairs: [{ bin: pair.bin.id, item: pair.item.id }] } });
        setDone((was) => was.filter((p) => p !== pair));
        setLast((was) => was.filter((s) => s.at !== at));
        return { tone: 'look', text: `${pair.item.code} no longer lives in ${pair.bin.address}.` };
      });
    setLast((was) => [{ key: at, at, text, undo }, ...was]);
    return { tone: 'right', text: reply.says[0] ?? text };
  };
  const { answer, busy, take, act } = useQueue(async (code) => {
    const found = await read('desk.scan', { query: { code } });
    if (found.kind !== 'bin' && found.kind !== 'item')
      return { tone: 'wrong', text: found.kind === 'unknown' ? `Nothing here is known by “${found.text}”.` : 'Scan a bin or an item.' };
    const scanned: First =
      found.kind === 'bin'
        ? { kind: 'bin', id: found.bin, address: found.address }
        : { kind: 'item', id: found.item, code: found.code, description: found.description };
    // The same kind again begins anew: the next bin, or the next item.
    if (!first || first.kind === scanned.kind) {
      setFirst(scanned);
      setDone([]);
      return { tone: 'right', text: scanned.kind === 'bin' ? `${scanned.address}: now its items.` : `${scanned.code}: now its bins.` };
    }
    const [bin, item] = first.kind === 'bin' ? [first, scanned] : [scanned, first];
    return bin.kind === 'bin' && item.kind === 'item' ? assign({ bin, item }) : null;
  });
  return (
    <Screen
      title="Home bins"
      sub={
        first
          ? first.kind === 'bin'
            ? 'scan its items, one after the other'
            : 'scan its bins, one after the other'
          : 'scan a bin or an item'
      }
      answer={answer}
      busy={busy}
      onScan={take}
      hint={!first ? 'Scan a bin or an item' : first.kind === 'bin' ? 'Scan an item' : 'Scan a bin'}
      last={last}
    >
      {first ? (
        <section className="space-y-3">
          <p className="text-center">
            {first.kind === 'bin' ? (
              <Plate address={first.address} size="door" />
            ) : (
              <span className="text-xl">
                <span className="code text-3xl">{first.code}</span> {first.description}
              </span>
            )}
          </p>
          <div className="grid grid-cols-2 gap-2" role="group" aria-label="As">
            {(
              [
                ['face', 'pick face'],
                ['reserve', 'reserve'],
              ] as const
            ).map(([v, label]) => (
              <Button
                key={v}
                tall
                look={role === v ? 'plain' : 'quiet'}
                aria-pressed={role === v}
                className={role === v ? '!border-4' : ''}
                onClick={() => setRole(v)}
              >
                {label}
              </Button>
            ))}
          </div>
          <p className="code text-5xl">
            {done.length} <span className="text-xl font-normal text-soft">assigned</span>
          </p>
          <ul className="text-lg">
            {done.slice(0, 6).map((p, i) => (
              <li key={i} className="border-b border-line py-1">
                {first.kind === 'bin' ? p.item.code : p.bin.address}
              </li>
            ))}
          </ul>
        </section>
      ) : (
        <Empty title="Scan a bin, then its items.">Or an item, then its bins. The first scan says which way round.</Empty>
      )}
    </Screen>
  );
}
