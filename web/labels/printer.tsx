import { Button, ButtonLink, sayMoment, Empty, Tag, Trouble, useRead, useSend, sayMoney } from '#web/base';

const STATE = { waiting: 'waiting', printed: 'printed', failed: 'failed, tried again by itself' } as const;

/** The printer's queue and the strip that came out. A job that failed is kept. */
export function Printer() {
  const { data, error } = useRead('labels.jobs', {});
  const again = useSend('labels.again');
  return (
    <div className="grid items-start grid-cols-1 gap-8 lg:grid-cols-[1fr_20rem]">
      <section>
        <h1 className="code text-3xl">Printer</h1>
        <Trouble error={error} />
        {data?.jobs.length === 0 && (
          <Empty title="Nothing was printed yet.">Labels are printed from items, bins, deliveries and orders.</Empty>
        )}
        <ul className="mt-3 grid gap-5 md:grid-cols-2 ">
          {data?.jobs.map((j) => (
            <li key={j.id} className="border-2 border-line p-2">
              {j.svg === null ? (
                <p className="bg-white p-6 text-center text-ink">is being drawn</p>
              ) : (
                <img alt={`Label: ${j.title}`} src={`data:image/svg+xml;utf8,${encodeURIComponent(j.svg)}`} className="w-full bg-white" />
              )}
              <div className="mt-2 flex items-center gap-2">
                <span className="min-w-0 flex-1">
                  <strong className="block truncate">
                    {j.copies} × {j.title}
                  </strong>
                  <span className="text-sm text-soft">
                    {j.by}, {sayMoment(j.at)}
                  </span>
                </span>
                <Tag tone={j.state === 'failed' ? 'wrong' : j.state === 'printed' ? 'settled' : 'plain'}>{STATE[j.state]}</Tag>
                <Button onClick={() => again.mutate({ params: { id: j.id } })}>Again</Button>
              </div>
              {j.said && <p className="text-sm font-semibold text-wrong">{j.said}</p>}
            </li>
          ))}
        </ul>
      </section>
      <ToPrint />
    </div>
  );
}

/** What should hang on the shelves and does not: the way to print it. */
function ToPrint() {
  const { data } = useRead('desk.home', {});
  const { data: bare } = useRead('places.bins', { query: { show: 'unlabelled', limit: 1 } });
  const wrong = data?.wrongLabels;
  return (
    <section aria-label="To be printed" className="border-l-4 border-ink pl-4">
      <h2 className="border-b-2 border-ink font-bold">To be printed</h2>
      {wrong && (
        <div className="border-b border-line py-3">
          <p>
            <strong className="code text-3xl">{wrong.total}</strong> {wrong.total === 1 ? 'shelf label is' : 'shelf labels are'} wrong
          </p>
          <ul className="my-1 text-sm text-soft">
            {wrong.rows.slice(0, 4).map((l) => (
              <li key={`${l.bin}-${l.item}`} className="truncate">
                {l.address}, {l.code}: {l.onLabel === null ? 'none hangs there' : `it says ${sayMoney(l.onLabel)}`}, it costs{' '}
                {sayMoney(l.now)}
              </li>
            ))}
          </ul>
          {wrong.total > 0 && (
            <ButtonLink look="next" to="/items/shelf-labels">
              Look and print
            </ButtonLink>
          )}
        </div>
      )}
      {bare && (
        <div className="py-3">
          <p>
            <strong className="code text-3xl">{bare.total}</strong> {bare.total === 1 ? 'bin was' : 'bins were'} never labelled
          </p>
          {bare.total > 0 && <ButtonLink to="/places?show=unlabelled">Choose bins to label</ButtonLink>}
        </div>
      )}
    </section>
  );
}
