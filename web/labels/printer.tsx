import { Button, sayMoment, Empty, Tag, useRead, useSend } from '#web/base';

const STATE = { waiting: 'waiting', printed: 'printed', failed: 'failed, tried again by itself' } as const;

/** The printer's queue and the strip that came out. A job that failed is kept. */
export function Printer() {
  const { data } = useRead('labels.jobs', {});
  const again = useSend('labels.again');
  return (
    <section>
      <h1 className="code text-3xl">Printer</h1>
      {data?.jobs.length === 0 && (
        <Empty title="Nothing was printed yet.">Labels are printed from items, bins, deliveries and orders.</Empty>
      )}
      <ul className="mt-3 grid gap-5 md:grid-cols-2 xl:grid-cols-3">
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
  );
}
