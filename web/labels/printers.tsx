import { useState } from 'react';
import { RESOLUTIONS, sayPaper, type Dpi } from '#core/labels';
import type { PrinterOut } from '#contract/labels';
import { Button, counted, Empty, Field, Trouble, useMe, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';
import { keyOf, rollOptions, usePapers } from './papers.tsx';

/** The printers of the site by their place: how each is, what is in it, and what to do. */
export function Printers() {
  const { me } = useMe();
  const { data, error } = useRead('labels.printers', {});
  const [edits, setEdits] = useState<number | 'new' | null>(null);
  const isLead = me?.role === 'lead';
  return (
    <section aria-label="Printers" className="space-y-4">
      <Trouble error={error} />
      {data?.printers.length === 0 && edits === null && (
        <Empty title="This site has no printer.">
          {data.homeless > 0 ? `${counted(data.homeless, 'label waits', 'labels wait')} for one.` : 'Labels can be printed from a PDF.'}
        </Empty>
      )}
      {data?.printers.map((p) =>
        edits === p.id ? (
          <PrinterForm key={p.id} printer={p} onDone={() => setEdits(null)} />
        ) : (
          <PrinterCard
            key={p.id}
            printer={p}
            others={data.printers.filter((o) => o.id !== p.id)}
            onEdit={isLead ? () => setEdits(p.id) : null}
          />
        ),
      )}
      {isLead && edits === null && <Button onClick={() => setEdits('new')}>Add a printer</Button>}
      {edits === 'new' && <PrinterForm printer={null} onDone={() => setEdits(null)} />}
    </section>
  );
}

/** How a printer is, in few words, and whether somebody has to go there. */
export function stateOf(p: PrinterOut): { says: string; isWrong: boolean } {
  if (p.run?.unsure) return { says: 'Somebody must look what came out', isWrong: true };
  if (p.said !== null) return { says: p.said, isWrong: true };
  if (p.paused) return { says: p.pausedBy === null ? 'Stopped at the printer' : `Stopped by ${p.pausedBy}`, isWrong: true };
  if (p.run) return { says: `Prints, ${p.run.cameOut} of ${p.run.labels} came out`, isWrong: false };
  const held = p.wantRoll.reduce((sum, w) => sum + w.labels, 0);
  if (held > 0 && held === p.waiting) return { says: 'Wants another roll', isWrong: true };
  return { says: p.waiting > 0 ? 'Begins' : 'Ready', isWrong: false };
}

function PrinterCard({ printer: p, others, onEdit }: { printer: PrinterOut; others: readonly PrinterOut[]; onEdit: (() => void) | null }) {
  const papers = usePapers();
  const pause = useSend('labels.pausePrinter');
  const putRoll = useSend('labels.putRoll');
  const handOver = useSend('labels.handOver');
  const drop = useSend('labels.drop');
  const state = stateOf(p);
  const params = { id: p.id };
  const elsewhere = others.map((o) => [String(o.id), o.name] as const);
  return (
    <article aria-label={p.name} className={`border-2 p-3 ${state.isWrong ? 'border-wrong' : 'border-line'}`}>
      <div className="flex items-baseline gap-2">
        <h2 className="min-w-0 flex-1 truncate text-lg font-bold">{p.name}</h2>
        {onEdit && (
          <Button look="quiet" onClick={onEdit}>
            Change
          </Button>
        )}
      </div>
      <p role="status" className={`text-lg font-semibold ${state.isWrong ? 'text-wrong' : ''}`}>
        {state.says}
      </p>
      {p.run && (p.run.unsure || (p.paused && p.said !== null)) && <CameOut key={p.run.id} printer={p} run={p.run} />}
      <p className="text-soft">
        {[
          p.run && state.isWrong && !p.run.unsure && `${p.run.cameOut} of ${p.run.labels} came out`,
          p.waiting > 0 && `${counted(p.waiting, 'label waits', 'labels wait')}`,
          p.zones.length > 0 && `for ${p.zones.map((z) => z.code).join(', ')}`,
          p.handhelds.length > 0 && `used by ${p.handhelds.join(', ')}`,
          `${p.dpi} dots to the inch`,
        ]
          .filter(Boolean)
          .join(' · ')}
      </p>
      {p.wantRoll.map((w) => {
        const key = keyOf(papers, w);
        return (
          <p key={sayPaper(w)} className="mt-2 flex flex-wrap items-center gap-2 font-semibold text-wrong">
            {counted(w.labels, 'label wants', 'labels want')} {sayPaper(w)}
            {key !== undefined && (
              <Button look="next" onClick={() => putRoll.mutate({ params, body: { roll: key } })}>
                That roll is in now
              </Button>
            )}
          </p>
        );
      })}
      <div className="mt-2">
        <Select
          label="In it"
          value={p.roll === null ? '' : (keyOf(papers, p.roll) ?? '?')}
          options={[
            ['', 'paper that it cuts to length'],
            ...(p.roll && keyOf(papers, p.roll) === undefined ? [['?', sayPaper(p.roll)] as const] : []),
            ...rollOptions(papers).slice(1),
          ]}
          onChange={(roll) => roll !== '?' && putRoll.mutate({ params, body: { roll: roll === '' ? null : roll } })}
        />
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        {p.paused || (p.said !== null && !p.run?.unsure) ? (
          <Button look={p.paused ? 'next' : 'plain'} onClick={() => pause.mutate({ params, body: { paused: false } })}>
            {p.paused ? 'Go on' : 'Try now'}
          </Button>
        ) : (
          (p.waiting > 0 || p.run) && <Button onClick={() => pause.mutate({ params, body: { paused: true } })}>Stop</Button>
        )}
        {p.waiting > 0 && elsewhere.length > 0 && (
          <Select
            label={`Let another print what waits at ${p.name}`}
            hideLabel
            value=""
            options={[['', 'Print elsewhere …'], ...elsewhere]}
            onChange={(to) => to !== '' && handOver.mutate({ params, body: { to: Number(to) } })}
          />
        )}
        {p.waiting > 0 && (
          <Button look="quiet" onClick={() => drop.mutate({ body: { printer: p.id } })}>
            Print none of them
          </Button>
        )}
      </div>
    </article>
  );
}

// The printer was switched off in the middle: only who stands before it knows.
function CameOut({ printer, run }: { printer: PrinterOut; run: NonNullable<PrinterOut['run']> }) {
  const [labels, setLabels] = useState(String(run.cameOut));
  const say = useSend('labels.cameOut', { quiet: true });
  const many = Number(labels);
  const isFair = labels.trim() !== '' && Number.isInteger(many) && many >= 0 && many <= run.labels;
  const sent = run.titles.flatMap(({ title, copies }) => Array.from({ length: copies }, () => title));
  return (
    <form
      className="my-2 space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        say.mutate({ params: { id: printer.id }, body: { run: run.id, labels: many } });
      }}
    >
      <p>
        It was sent {counted(run.labels, 'label', 'labels')}, from {sent[0]} to {sent.at(-1)}, and does not say what came out. Look at the
        strip.
      </p>
      <Field
        label="How many of them came out"
        inputMode="numeric"
        value={labels}
        problem={isFair ? undefined : `Key a number from 0 to ${run.labels}.`}
        onChange={(e) => setLabels(e.target.value)}
      />
      {isFair && (
        <p className="text-soft">
          {many === 0
            ? 'All of them are printed anew.'
            : many === run.labels
              ? 'None is printed again.'
              : `The last that came is ${sent[many - 1]}, the next is ${sent[many]}.`}
        </p>
      )}
      <Trouble error={say.error} />
      <Button look="next" type="submit" disabled={!isFair || say.isPending}>
        That is so
      </Button>
    </form>
  );
}

function PrinterForm({ printer, onDone }: { printer: PrinterOut | null; onDone: () => void }) {
  const papers = usePapers();
  const { me } = useMe();
  const { data: places } = useRead('places.sites', {});
  const zones = places?.sites.find((s) => s.id === me?.site.id)?.zones ?? [];
  const [facts, setFacts] = useState({
    name: printer?.name ?? '',
    address: printer?.address ?? '',
    dpi: printer?.dpi ?? (203 as Dpi),
    roll: printer?.roll ? (keyOf(papers, printer.roll) ?? '') : '',
    zones: printer?.zones.map((z) => z.id) ?? [],
  });
  const set = (over: Partial<typeof facts>): void => setFacts((was) => ({ ...was, ...over }));
  const add = useSend('labels.addPrinter', { quiet: true, onDone });
  const change = useSend('labels.changePrinter', { quiet: true, onDone });
  const remove = useSend('labels.removePrinter', { quiet: true, onDone });
  const ask = useSend('labels.askPrinter', {
    quiet: true,
    onDone: (r) => RESOLUTIONS.some((d) => d === r.dpi) && set({ dpi: r.dpi as Dpi }),
  });
  const [isSure, setIsSure] = useState(false);
  const body = { ...facts, roll: facts.roll === '' ? null : facts.roll };
  return (
    <form
      aria-label={printer ? `Change ${printer.name}` : 'Add a printer'}
      className="space-y-2 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (printer) change.mutate({ params: { id: printer.id }, body });
        else add.mutate({ body });
      }}
    >
      <Field
        label="What it is called"
        placeholder="Packing bench"
        value={facts.name}
        maxLength={40}
        onChange={(e) => set({ name: e.target.value })}
      />
      <Field
        label="Its address"
        placeholder="ipp://192.168.1.20/ipp/print"
        value={facts.address}
        maxLength={200}
        onChange={(e) => set({ address: e.target.value })}
      />
      <div className="flex flex-wrap items-center gap-2">
        <Button disabled={facts.address === '' || ask.isPending} onClick={() => ask.mutate({ body: { address: facts.address } })}>
          Ask it
        </Button>
        <span role="status" className={ask.data?.answers === false ? 'font-semibold text-wrong' : ''}>
          {ask.isPending ? 'asking …' : ask.data?.says}
        </span>
      </div>
      <Trouble error={ask.error} />
      <Select
        label="Dots of its head to the inch"
        value={facts.dpi}
        options={RESOLUTIONS.map((d) => [d, String(d)] as const)}
        onChange={(dpi) => set({ dpi })}
      />
      <Select
        label="In it"
        value={facts.roll}
        options={[['', 'paper that it cuts to length'], ...rollOptions(papers).slice(1)]}
        onChange={(roll) => set({ roll })}
      />
      <fieldset>
        <legend className="text-sm text-soft">Prints the labels for these zones</legend>
        <div className="flex flex-wrap gap-x-4">
          {zones.map((z) => (
            <label key={z.id} className="flex items-center gap-2">
              <input
                type="checkbox"
                className="size-5 accent-ink"
                checked={facts.zones.includes(z.id)}
                onChange={(e) => set({ zones: e.target.checked ? [...facts.zones, z.id] : facts.zones.filter((id) => id !== z.id) })}
              />
              {z.name}
            </label>
          ))}
        </div>
      </fieldset>
      <Trouble error={add.error ?? change.error ?? remove.error} />
      <div className="flex flex-wrap gap-2 pt-1">
        <Button
          look="next"
          type="submit"
          disabled={add.isPending || change.isPending || facts.name.trim() === '' || facts.address.trim() === ''}
        >
          {printer ? 'Keep' : 'Add it'}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Leave it
        </Button>
        {printer && (
          <Button look="wrong" onClick={() => (isSure ? remove.mutate({ params: { id: printer.id } }) : setIsSure(true))}>
            {isSure ? 'Take it away: its labels wait at another' : 'Take it away'}
          </Button>
        )}
      </div>
    </form>
  );
}
