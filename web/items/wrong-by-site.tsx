import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { Button, counted, switchSite, useMe, useRead, useSend } from '#web/base';

/** Where shelves show another price than the one that holds now: printed in one act from where the price was changed, each site's at its
 *  own printers in walking order, or looked at first. With `item`, of that item only. */
export function WrongBySite({ item }: { item?: number }) {
  const { data } = useRead('labels.wrongBySite', { query: item === undefined ? {} : { item } });
  const { me } = useMe();
  const go = useNavigate();
  const print = useSend('labels.printWrong', {
    onDone: ({ sites }) => {
      for (const s of sites)
        toast.success(
          `${s.name}: ${counted(s.labels, 'shelf label', 'shelf labels')} ${
            s.printers.length === 0 ? 'wait for a printer' : `sent to ${s.printers.join(' and ')}, in walking order`
          }.${s.left > 0 ? ` ${s.left} more are still wrong: print again.` : ''}`,
        );
    },
  });
  if (!data || data.sites.length === 0) return null;
  const send = (sites: number[]): void => print.mutate({ body: { sites, ...(item === undefined ? {} : { item }) } });
  return (
    <section aria-label="Wrong shelf labels" className="my-2 border-l-4 border-wrong pl-3">
      <ul>
        {data.sites.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-2 py-1">
            <span className="min-w-40 flex-1 font-semibold">
              {s.name}: {counted(s.total, 'shelf label is', 'shelf labels are')} wrong
            </span>
            <Button
              look="quiet"
              onClick={() => (s.id === me?.site.id ? void go('/items/shelf-labels') : switchSite(s.id, '/items/shelf-labels'))}
            >
              Look
            </Button>
            <Button look={data.sites.length === 1 ? 'next' : 'plain'} disabled={print.isPending} onClick={() => send([s.id])}>
              Print {s.total}
            </Button>
          </li>
        ))}
      </ul>
      {data.sites.length > 1 && (
        <Button look="next" disabled={print.isPending} onClick={() => send(data.sites.map((s) => s.id))}>
          Print all {data.sites.reduce((sum, s) => sum + s.total, 0)}, each at its site
        </Button>
      )}
    </section>
  );
}
