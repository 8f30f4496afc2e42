import { useState, type ReactNode } from 'react';
import type { BodyIn, Routes } from '#contract';
import { Button, Field, Refused, send, useRead } from '#web/base';
import type { Answer, Scan } from './screen.tsx';

type Move = BodyIn<Routes['moves.move']>;
type Act = (work: () => Promise<Answer | null>) => void;

// Rules that a lead may override with a reason; a retired or unknown bin is none of them.
const RULES = ['places.oneItem', 'places.oneLot', 'places.storageClass', 'places.full', 'places.tooBulky', 'places.tooHeavy'];

/** Carries goods from bin to bin: sends the move, keeps it in sight with its undo, and lets a lead override a rule of the bin, with a reason. */
export function useMoveGoods(onMoved: () => void | Promise<unknown>): {
  last: readonly Scan[];
  move: (body: Move, act: Act) => Promise<Answer>;
  override: (act: Act) => ReactNode;
} {
  const { data: me } = useRead('people.me', {});
  const [last, setLast] = useState<readonly Scan[]>([]);
  const [blocked, setBlocked] = useState<{ body: Move; says: string } | null>(null);
  const [owned, setOwned] = useState<Owned | null>(null);
  const move = async (body: Move, act: Act): Promise<Answer> => {
    setBlocked(null);
    setOwned(null);
    try {
      const done = await send('moves.move', { body: { ...body, device: 'handheld' } });
      const undo = (): void =>
        act(async () => {
          await send('stock.undo', { params: { id: done.document }, body: { reason: 'Undone on the handheld' } });
          setLast((was) => was.filter((s) => s.at !== done.at));
          await onMoved();
          return { tone: 'look', text: `${done.number} is undone.` };
        });
      setLast((was) => [{ at: done.at, text: `${done.number}: ${done.qty} ${done.code} ${done.from} → ${done.to}`, undo }, ...was]);
      await onMoved();
      return { tone: 'right', text: `${done.qty} ${done.code} is in ${done.to}.` };
    } catch (error) {
      if (error instanceof Refused && RULES.includes(error.problem.code) && me?.me?.role === 'lead')
        setBlocked({ body, says: error.message });
      if (error instanceof Refused && error.problem.code === 'stock.ordersGoods')
        setOwned({ order: Number(error.problem['orderId']), number: String(error.problem['order']), says: error.message });
      throw error;
    }
  };
  return {
    last,
    move,
    override: (act) =>
      owned ? (
        <OrdersGoods
          owned={owned}
          mayPutBack={me?.me?.role === 'lead'}
          onLeave={() => setOwned(null)}
          onPutBack={() =>
            act(async () => {
              const back = await send('picking.putBack', { params: { id: owned.order } });
              setOwned(null);
              await onMoved();
              return {
                tone: 'look',
                text: `${back.pieces} pieces of ${owned.number} went back to ${back.bin ?? 'nowhere'}. Put them away from there.`,
              };
            })
          }
        />
      ) : (
        blocked && (
          <Override
            says={blocked.says}
            onLeave={() => setBlocked(null)}
            onGo={(reason) => act(() => move({ ...blocked.body, override: reason }, act))}
          />
        )
      ),
  };
}

type Owned = { readonly order: number; readonly number: string; readonly says: string };

/** Goods that were picked for an order are its own: the way to free them is to put them back. */
function OrdersGoods({
  owned,
  mayPutBack,
  onPutBack,
  onLeave,
}: {
  owned: Owned;
  mayPutBack: boolean;
  onPutBack: () => void;
  onLeave: () => void;
}) {
  return (
    <section className="space-y-2 rounded border-4 border-ink bg-sheet p-3">
      <p className="text-lg font-semibold">{owned.says}</p>
      {!mayPutBack && <p className="text-lg">A lead does that, here or on the order’s page.</p>}
      <div className="grid grid-cols-2 gap-2">
        <Button tall onClick={onLeave}>
          Cancel
        </Button>
        {mayPutBack && (
          <Button tall look="next" onClick={onPutBack}>
            Put {owned.number} back
          </Button>
        )}
      </div>
    </section>
  );
}

function Override({ says, onGo, onLeave }: { says: string; onGo: (reason: string) => void; onLeave: () => void }) {
  const [reason, setReason] = useState('');
  return (
    <form
      className="space-y-2 rounded border-4 border-ink bg-sheet p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason) onGo(reason);
      }}
    >
      <p className="text-lg font-semibold">{says}</p>
      <Field tall label="Put it there all the same, because" value={reason} onChange={(e) => setReason(e.target.value)} />
      <div className="grid grid-cols-2 gap-2">
        <Button tall onClick={onLeave}>
          Another bin
        </Button>
        <Button tall look="next" type="submit" disabled={!reason}>
          Put it there
        </Button>
      </div>
    </form>
  );
}
