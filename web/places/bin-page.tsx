import { Link, useParams } from 'react-router';
import { useState } from 'react';
import { Button, Field, sayMoment, Empty, Plate, Tag, Trouble, useRead, useSend, sayDay, ItemName } from '#web/base';
import { LabelPanel, sayLabelsSent } from '#web/labels';
import { BinForm, HoldBin, Homes, ruleWords } from './bin-form.tsx';
import { useMySite } from './frame.tsx';

/** A bin: what is in it by lot and serial, what is planned out of it, whose home it is, its last movements, its label. */
export function BinPage() {
  const id = Number(useParams()['id']);
  const { data: bin, error } = useRead('places.bin', { params: { id } });
  const { me } = useMySite();
  const [editing, setEditing] = useState(false);
  const [isLabelling, setIsLabelling] = useState(false);
  const { data: history } = useRead('stock.movements', { query: { bin: id, limit: 15 } });
  const print = useSend('labels.print', { onDone: (r) => sayLabelsSent(r, 'bin') });
  if (!bin) return <Trouble error={error} />;
  return (
    <article className="grid grid-cols-1 gap-8 lg:grid-cols-[3fr_2fr]">
      <section>
        <div className="mb-4 flex items-center gap-4">
          <Plate address={bin.address} size="door" />
          <div>
            <p className="text-lg font-semibold">
              {bin.zoneName}, {bin.site}
            </p>
            <p className="text-soft">
              Last counted: {bin.lastCount ? sayMoment(bin.lastCount) : 'never'}
              {bin.oldNames.length > 0 && ` · ${bin.oldNames.length === 1 ? 'old name' : 'old names'} ${bin.oldNames.join(', ')}`}
            </p>
          </div>
          <span className="ml-auto flex shrink-0 items-center gap-2">
            {bin.retired && <Tag tone="strong">retired</Tag>}
            <Button onClick={() => print.mutate({ body: { kind: 'bins', bins: [id] } })}>Print its label</Button>
            <Button look="quiet" aria-expanded={isLabelling} onClick={() => setIsLabelling(!isLabelling)}>
              {bin.use === 'cart' ? 'Labels of its slots' : 'See it first'}
            </Button>
            {me?.role === 'lead' && <Button onClick={() => setEditing(!editing)}>{editing ? 'Cancel' : 'Change'}</Button>}
          </span>
        </div>
        {isLabelling && <BinLabel bin={{ id, address: bin.address, use: bin.use }} onDone={() => setIsLabelling(false)} />}
        {editing && <BinForm bin={bin} onDone={() => setEditing(false)} />}
        {bin.broken.map((b) => (
          <p key={b.rule} className="mb-2 border-2 border-wrong bg-wrong-pale p-2 font-semibold text-wrong">
            {b.says}
          </p>
        ))}
        <p className="mb-3 flex flex-wrap gap-1">
          {ruleWords(bin).map((w) => (
            <Tag key={w}>{w}</Tag>
          ))}
          {bin.fill !== null && bin.fill > 100 && <Tag tone="wrong">over-full, {bin.fill} %</Tag>}
          {bin.fill !== null && bin.fill <= 100 && <Tag>{bin.fill} % full</Tag>}
        </p>
        {bin.contents.length === 0 ? (
          <Empty title="The bin is empty.">{bin.homeOf.length > 0 ? 'It is kept for the items below.' : 'Anything may be put here.'}</Empty>
        ) : (
          <table className="w-full">
            <thead className="border-b-2 border-ink text-left text-sm text-soft">
              <tr>
                <th className="font-normal">Item</th>
                <th className="font-normal">Lot or serial</th>
                <th className="text-right font-normal">Planned out</th>
                <th className="text-right font-normal">In the bin</th>
              </tr>
            </thead>
            <tbody>
              {bin.contents.map((c, i) => (
                <tr key={i} className="border-b border-line">
                  <td className="py-1.5">
                    <ItemName {...c} wraps />
                  </td>
                  <td>
                    {c.lot && `lot ${c.lot}`}
                    {c.serial && `serial ${c.serial}`}{' '}
                    {c.expires &&
                      (c.expired ? (
                        <Tag tone="wrong">expired {sayDay(c.expires)}</Tag>
                      ) : (
                        <span className="text-soft">until {sayDay(c.expires)}</span>
                      ))}{' '}
                    {c.condition !== 'sound' && <Tag tone="wrong">{c.condition}</Tag>}
                    {c.sscc && (
                      <Link className="block text-sm underline" to={`/units/${c.sscc}`}>
                        in unit …{c.sscc.slice(-6)}
                      </Link>
                    )}
                  </td>
                  <td className="text-right">{c.planned !== '0' && c.planned}</td>
                  <td className="text-right text-lg font-bold">
                    {c.qty} <span className="text-sm font-normal text-soft">{c.unit}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {bin.promised.length > 0 && (
          <>
            <h2 className="mt-6 mb-1 border-b-2 border-ink font-bold">To be picked from here</h2>
            <ul>
              {bin.promised.map((p, i) => (
                <li key={i} className="flex justify-between border-b border-line py-1">
                  <span>
                    <Link to={`/rounds/${p.round}`} className="font-semibold underline">
                      {p.number}
                    </Link>{' '}
                    for {p.order}: <span className="code">{p.code}</span> {p.lot && `lot ${p.lot}`}
                  </span>
                  <strong>{p.qty}</strong>
                </li>
              ))}
            </ul>
          </>
        )}
        <Homes bin={bin} />
        {me?.role !== 'office' && bin.contents.length > 0 && <HoldBin bin={bin.id} />}
      </section>
      <section>
        <h2 className="flex justify-between border-b-2 border-ink font-bold">
          Last movements{' '}
          <Link className="font-normal underline" to={`/ledger?bin=${id}`}>
            all of them
          </Link>
        </h2>
        {history?.movements.length === 0 && <p className="py-2 text-soft">Nothing was ever moved here.</p>}
        <ul>
          {history?.movements.map((m) => {
            const into = m.to.id === id;
            return (
              <li key={m.id} className="flex items-baseline gap-2 border-b border-line py-1">
                <span className="code w-16 text-right text-lg">
                  {into ? '+' : '−'}
                  {m.qty}
                </span>
                <span className="min-w-0 flex-1">
                  <span className="block truncate">
                    {m.item.code} {into ? 'from' : 'to'} {into ? m.from.address : m.to.address}
                  </span>
                  <span className="block truncate text-sm text-soft">
                    {m.reason}, {m.person}
                  </span>
                </span>
                <span className="whitespace-nowrap text-sm text-soft">{sayMoment(m.at)}</span>
              </li>
            );
          })}
        </ul>
      </section>
    </article>
  );
}

/** The label of a bin, or of the slots of a cart. */
function BinLabel({ bin, onDone }: { bin: { id: number; address: string; use: string }; onDone: () => void }) {
  const [slots, setSlots] = useState('8');
  const many = Number(slots);
  const isFair = Number.isInteger(many) && many >= 1 && many <= 40;
  if (bin.use !== 'cart') return <LabelPanel of={bin.address} kind="bin" wanted={{ kind: 'bins', bins: [bin.id] }} onDone={onDone} />;
  return (
    <LabelPanel of={`a slot of ${bin.address}`} wanted={{ kind: 'totes', bin: bin.id, slots: isFair ? many : 1 }} onDone={onDone}>
      <Field
        label="How many slots it has"
        className="w-24"
        inputMode="numeric"
        value={slots}
        problem={isFair ? undefined : 'Key a number from 1 to 40.'}
        onChange={(e) => setSlots(e.target.value)}
      />
    </LabelPanel>
  );
}
