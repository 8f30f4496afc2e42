import { ago, Button, Empty, Tag, Trouble, useMe, useRead, useSend } from '#web/base';
import { toast } from 'sonner';
import { Clashes } from './clashes.tsx';

const SILENT_MS = 60 * 60_000;

/** The floor as the lead sees it: what is to be settled, the devices and what they still hold, and how the bench packs. */
export function FloorPage() {
  const me = useMe();
  const lead = me?.me?.role === 'lead';
  const { data, error } = useRead('hands.devices', {}, { enabled: lead });
  const trust = useSend('hands.trust', { onDone: () => toast.success('The bench does so from its next look on.') });
  return (
    <div className="grid grid-cols-1 gap-10 lg:grid-cols-[3fr_2fr]">
      <Clashes />
      {lead && (
        <section>
          <h2 className="mb-1 border-b-2 border-ink font-bold">Devices</h2>
          <Trouble error={error} />
          {data?.devices.length === 0 && (
            <Empty title="No handheld yet.">A device is listed as soon as somebody opens My work on it.</Empty>
          )}
          <table className={`w-full text-left ${data?.devices.length ? '' : 'hidden'}`} aria-label="Devices">
            <thead className="text-sm text-soft">
              <tr>
                <th className="py-1 font-normal">Device</th>
                <th className="font-normal">Last with</th>
                <th className="font-normal">Heard of</th>
                <th className="text-right font-normal">Still holds</th>
              </tr>
            </thead>
            <tbody>
              {data?.devices.map((d) => (
                <tr key={d.id} className="border-t border-line">
                  <td className="py-1.5 pr-4 font-semibold">{d.name}</td>
                  <td className="pr-4">
                    {d.person ?? 'nobody'}
                    {d.site && <span className="block text-sm text-soft">{d.site}</span>}
                  </td>
                  <td className="whitespace-nowrap">{ago(d.heard)}</td>
                  <td className="text-right">
                    {d.waiting > 0 && Date.now() - Date.parse(d.heard) > SILENT_MS ? (
                      <Tag tone="wrong">{d.waiting}, silent</Tag>
                    ) : (
                      d.waiting
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="mt-6 mb-1 border-b-2 border-ink font-bold">The bench</h2>
          <p className="py-1 text-soft">
            A bench that trusts the pick packs a whole order by one scan of its sheet. Otherwise each piece is scanned, or somebody says
            that they looked.
          </p>
          <div className="flex gap-2">
            {([false, true] as const).map((trusts) => (
              <Button
                key={String(trusts)}
                aria-pressed={data?.benchTrusts === trusts}
                className={data?.benchTrusts === trusts ? '!border-4 font-bold' : ''}
                disabled={trust.isPending}
                onClick={() => trust.mutate({ body: { trusts } })}
              >
                {trusts ? 'Trust the pick' : 'Look at each order'}
                {data?.benchTrusts === trusts && ', as now'}
              </Button>
            ))}
          </div>
        </section>
      )}
    </div>
  );
}
