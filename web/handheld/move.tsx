import { useCallback } from 'react';
import { useSearchParams } from 'react-router';
import { formatQty, ONE } from '#core/base';
import { shortSscc, type ContentFact, type Facts } from '#core/floor';
import { compareFirstExpired } from '#core/lots';
import {
  PUT_AWAY_WHY,
  movesSaid,
  stepMove,
  suggestFor,
  suggestForUnit,
  type MoveAt,
  type MoveChoice,
  type MoveDoes,
  type MoveSource,
  type MovesSaid,
  type OwnMove,
} from '#core/moves';
import { Button, Empty, Plate, sayDay, ItemPicture } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { Contents } from './contents.tsx';
import { PrintLabel } from './print-label.tsx';
import { Ask, NumberOf, Screen } from './screen.tsx';
import { Sure } from './sure.tsx';
import { UnitGoods } from './unit-goods.tsx';
import { useNewBin } from './new-bin.tsx';

const TITLES: Readonly<Record<MoveSource, string>> = { bin: 'Move goods', arrivals: 'Put away', unplaced: 'Put away unplaced' };
const HINTS: Readonly<Record<MoveAt['step'], string>> = {
  from: 'Scan the bin you take from',
  goods: 'Scan the goods',
  lot: 'Scan the lot',
  serial: 'Scan the serial',
  absent: 'Scan other goods',
  to: 'Scan the bin where it goes',
  sure: 'Scan the bin where it goes',
  newLot: 'Scan or key the new lot',
  unit: 'Scan the bin where it goes',
  unitSure: 'Scan the bin where it goes',
};

/** Carrying goods (I1, I2): from a bin that is scanned, from arrivals, or what has no bin yet; the goods, how many, the bin where they
 *  go. */
export function MoveOnFloor({ source }: { source: MoveSource }) {
  const [search] = useSearchParams();
  const floor = theFloor();
  const { me } = useFloor();
  const given = search.get('from');
  const newBin = useNewBin();
  const person = me?.id ?? 0;
  const begin: MoveAt = source !== 'bin' ? { step: 'goods', from: null } : { step: 'from' };
  const { at, answer, scan, choose, undo } = useHand<MoveAt, MoveChoice, MovesSaid, MoveDoes>({
    job: `moves/${source}${given === null ? '' : `/${given}`}`,
    begin: startAt(given, begin),
    step: useCallback(
      (where, event, facts) => stepMove(where, event, { facts, source, own: floor.ownMoves(person) }),
      [floor, source, person],
    ),
    sentence: movesSaid,
    onSaid: (said) => {
      newBin.drop();
      if (said.said === 'moves.isNot' && said.meaning.kind === 'unknown' && said.wanted === 'to') newBin.offer(said.meaning.text);
    },
  });
  const { facts } = floor;
  const rows = source === 'bin' ? [] : lyingAt(source, facts);
  return (
    <Screen
      title={TITLES[source]}
      sub={source === 'bin' ? undefined : source === 'arrivals' ? `${rows.length} at arrivals` : `${rows.length} without a bin`}
      answer={answer}
      onScan={scan}
      hint={HINTS[at.step]}
      last={floor.ownMoves(person).map((m) => ({ key: m.key, at: m.at, text: moveWords(m, facts), undo: () => undo(m.key) }))}
    >
      {newBin.panel(scan)}
      <Step at={at} source={source} rows={rows} facts={facts} choose={choose} />
    </Screen>
  );
}

function startAt(given: string | null, begin: MoveAt): MoveAt {
  const bin = given === null ? undefined : theFloor().facts.binBy(given.toUpperCase());
  return bin ? { step: 'goods', from: bin.id } : begin;
}

function moveWords({ does }: OwnMove, facts: Facts): string {
  const what = does.kind === 'move.unit' ? `unit ${shortSscc(does.sscc)}` : `${formatQty(does.qty)} ${facts.item(does.item)?.code ?? ''}`;
  return `${what} ${facts.bin(does.from)?.address ?? ''} → ${facts.bin(does.to)?.address ?? ''}`;
}

function lyingAt(source: MoveSource, facts: Facts): ContentFact[] {
  const lying: ContentFact[] = [];
  for (const bin of facts.bins()) if (bin.use === source) lying.push(...facts.contents(bin.id));
  return lying.sort((a, b) => compareFirstExpired({ ...a, arrived: null }, { ...b, arrived: null }) || a.item - b.item);
}

type Choose = (choice: MoveChoice) => void;

function Step({
  at,
  source,
  rows,
  facts,
  choose,
}: {
  at: MoveAt;
  source: MoveSource;
  rows: readonly ContentFact[];
  facts: Facts;
  choose: Choose;
}) {
  switch (at.step) {
    case 'from':
      return <p className="pt-6 text-center text-2xl">Scan the bin from which you take.</p>;
    case 'goods':
      return at.from === null ? (
        <Waiting rows={rows} source={source} facts={facts} choose={choose} />
      ) : (
        <>
          <From bin={at.from} facts={facts} />
          <Contents rows={facts.contents(at.from)} facts={facts} onChoose={(content) => choose({ what: 'content', content })} />
          <Back choose={choose} says="Another bin" />
        </>
      );
    case 'lot':
      return (
        <>
          {at.from !== null && <From bin={at.from} facts={facts} />}
          <Ask label="Which lot">
            <p className="text-xl">
              <strong>{at.item.code}</strong>: which lot?
            </p>
            {at.lots.map((l, i) => (
              <Button
                key={`${l.bin}-${l.lot}`}
                tall
                look={i === 0 ? 'next' : 'plain'}
                className="flex w-full items-center justify-between gap-2"
                onClick={() => choose({ what: 'lot', lot: l.lot })}
              >
                <span className="code text-2xl">{l.lot ?? 'no lot'}</span>
                <span className="text-base">
                  {formatQty(l.qty)}, {dateWords(l.expires, i === 0, facts.today)}
                </span>
              </Button>
            ))}
          </Ask>
          <Back choose={choose} />
        </>
      );
    case 'serial':
      return (
        <>
          {at.from !== null && <From bin={at.from} facts={facts} />}
          <Ask label="Which serial">
            <p className="text-xl">
              <strong>{at.item.code}</strong>: scan the serial of the one that you take.
            </p>
          </Ask>
          <Back choose={choose} />
        </>
      );
    case 'absent':
      return (
        <>
          <From bin={at.hand.from} facts={facts} />
          <Ask label="Not there by the records">
            <p className="text-xl">
              By the records no <strong>{at.hand.item.code}</strong> lies here.
            </p>
            <Button tall look="next" className="w-full" onClick={() => choose({ what: 'back' })}>
              I scanned the wrong thing
            </Button>
            <Button tall className="w-full" onClick={() => choose({ what: 'sure' })}>
              It is in my hands: go on
            </Button>
          </Ask>
        </>
      );
    case 'newLot':
      return (
        <>
          <From bin={at.hand.from} facts={facts} />
          <Ask label="Which new lot">
            <p className="text-xl">
              {formatQty(at.hand.qty)} <strong>{at.hand.item.code}</strong> of lot {at.hand.lot}: which number do they get? Scan it, or key
              it below.
            </p>
          </Ask>
          <Back choose={choose} says="They keep their number" />
        </>
      );
    case 'unit':
    case 'unitSure':
      return <UnitInHand at={at} source={source} facts={facts} choose={choose} />;
    case 'to':
    case 'sure':
      return <InHand at={at} source={source} facts={facts} choose={choose} />;
  }
}

const dateWords = (expires: string | null, isFirst: boolean, today: string): string =>
  expires === null ? 'no date' : expires < today ? `expired ${sayDay(expires)}` : `${isFirst ? 'first, ' : ''}until ${sayDay(expires)}`;

function From({ bin, facts }: { bin: number; facts: Facts }) {
  return (
    <p className="flex items-center gap-3">
      <span className="text-soft">from</span>
      <Plate address={facts.bin(bin)?.address ?? ''} size="door" />
    </p>
  );
}

const Back = ({ choose, says = 'Something else first' }: { choose: Choose; says?: string }) => (
  <Button tall look="quiet" onClick={() => choose({ what: 'back' })}>
    {says}
  </Button>
);

function InHand({
  at,
  source,
  facts,
  choose,
}: {
  at: Extract<MoveAt, { step: 'to' | 'sure' }>;
  source: MoveSource;
  facts: Facts;
  choose: Choose;
}) {
  const { hand } = at;
  const suggestion = source === 'bin' ? null : suggestFor(hand, facts);
  return (
    <section className="space-y-3">
      {source === 'bin' && <From bin={hand.from} facts={facts} />}
      <ItemPicture item={hand.item.id} size="record" />
      <p className="text-lg leading-tight">
        <span className="code text-2xl">{hand.item.code}</span> {hand.item.description}
        {hand.lot && (
          <span className="block text-soft">
            lot {hand.lot}
            {hand.newLot !== null && (
              <>
                {' '}
                → <strong className="text-ink">lot {hand.newLot}</strong>
              </>
            )}
            {hand.expires && `, expires ${sayDay(hand.expires)}`}
          </span>
        )}
        {hand.serial && <span className="block text-soft">serial {hand.serial}</span>}
      </p>
      <NumberOf label="How many" value={formatQty(hand.qty)} unit={hand.item.unit} fixed={hand.serial !== null} />
      {at.step === 'sure' ? (
        <Sure
          to={facts.bin(at.to)?.address}
          doubt={at.doubt}
          onBack={() => choose({ what: 'back' })}
          onSure={(reason) => choose({ what: 'sure', reason })}
        />
      ) : (
        <>
          <NowTo suggestion={suggestion} source={source} facts={facts} />
          <PrintLabel
            key={`${hand.item.id} ${hand.lot ?? ''} ${hand.serial ?? ''}`}
            goods={{
              item: hand.item.id,
              lot: hand.newLot ?? hand.lot,
              expires: hand.expires,
              serial: hand.serial,
              copies: Math.ceil(hand.qty / ONE),
            }}
          />
        </>
      )}
      {at.step === 'to' && hand.lot !== null && (
        <Button tall className="w-full" onClick={() => choose({ what: 'newLot' })}>
          {hand.newLot === null ? 'They get a new lot number' : 'Another lot number'}
        </Button>
      )}
      <Back choose={choose} />
    </section>
  );
}

type Suggestion = ReturnType<typeof suggestFor>;

function NowTo({ suggestion, source, facts }: { suggestion: Suggestion; source: MoveSource; facts: Facts }) {
  if (!suggestion)
    return (
      <p className="rounded border-4 border-next bg-sheet p-3 text-center text-xl">
        {source === 'bin' ? 'Now scan the bin where it goes.' : 'No bin has room by the records. Scan where you put it.'}
      </p>
    );
  return (
    <p className="rounded border-4 border-next bg-sheet p-3 text-center">
      <Plate address={facts.bin(suggestion.bin)?.address ?? ''} size="door" />
      <span className="block pt-1 text-soft">{PUT_AWAY_WHY[suggestion.why]}</span>
    </p>
  );
}

/** A pallet or carton that is carried whole. */
function UnitInHand({
  at,
  source,
  facts,
  choose,
}: {
  at: Extract<MoveAt, { step: 'unit' | 'unitSure' }>;
  source: MoveSource;
  facts: Facts;
  choose: Choose;
}) {
  const { unit } = at;
  return (
    <section className="space-y-3">
      <From bin={unit.bin} facts={facts} />
      <p className="text-lg leading-tight">
        Unit <span className="code text-2xl">{shortSscc(unit.sscc)}</span>, whole
      </p>
      <UnitGoods goods={unit.goods} />
      {at.step === 'unitSure' ? (
        <Sure
          to={facts.bin(at.to)?.address}
          doubt={at.doubt}
          onBack={() => choose({ what: 'back' })}
          onSure={(reason) => choose({ what: 'sure', reason })}
        />
      ) : (
        <NowTo suggestion={source === 'bin' ? null : suggestForUnit(unit, facts)} source={source} facts={facts} />
      )}
      <Back choose={choose} />
    </section>
  );
}

function Waiting({ rows, source, facts, choose }: { rows: readonly ContentFact[]; source: MoveSource; facts: Facts; choose: Choose }) {
  if (rows.length === 0) return <Empty title={source === 'arrivals' ? 'Arrivals are clear.' : 'Everything has its bin.'} />;
  return <Contents rows={rows} facts={facts} onChoose={(content) => choose({ what: 'content', content })} />;
}
