import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { formatQty, parseQty, ZERO } from '#core/base';
import { entriesToInspect, failedOf, type DeliveryJob, type HandEntry, type ReceiveAsks, type ReceiveChoice } from '#core/receiving';
import { Button, Field, ItemPicture, Tag } from '#web/base';
import { theFloor } from '#web/hands';
import { smallPhoto } from './photo.ts';
import { Ask, NumberOf } from './screen.tsx';
import { entryWords } from './receive-lists.tsx';

type Choose = (choice: ReceiveChoice) => void;

/** Looking at goods that arrived (C11): a press for each that failed and why, or a press and a number; what it should look like stands
 *  beside it. */
export function Inspect({ asks, choose }: { asks: Extract<ReceiveAsks, { what: 'inspect' }>; choose: Choose }) {
  const floor = theFloor();
  const [isSample, setIsSample] = useState(false);
  const { finding, reason } = asks;
  const bad = failedOf(finding);
  const item = floor.facts.item(asks.item);
  const reasons = floor.failureReasons();
  const of = (id: number): string => formatQty(finding.failed.find((f) => f.reason === id)?.qty ?? ZERO);
  return (
    <Ask label="Inspect">
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <p className="text-xl leading-tight">
            <strong>{asks.code}</strong> {item?.description}
          </p>
          <p className="text-soft">
            {[item && item.unitG > 0 && `${item.unitG} g`, item && item.unitMl > 0 && `${item.unitMl} ml`, item?.storageClass]
              .filter(Boolean)
              .join(' · ')}
          </p>
        </div>
        {item && <ItemPicture item={item.id} size="record" />}
      </div>
      <p className="text-lg">
        <span className="code text-4xl">{formatQty(bad)}</span> of {formatQty(finding.checked)} failed
      </p>
      <div className="grid grid-cols-2 gap-2" role="group" aria-label="Why one failed">
        {reasons.map((r) => (
          <Button key={r.id} tall aria-pressed={reason === r.id} onClick={() => choose({ what: 'failed', reason: r.id })}>
            {r.name}
            {of(r.id) !== '0' && <span className="code ml-2 text-2xl">{of(r.id)}</span>}
          </Button>
        ))}
      </div>
      {reason !== null && <NumberOf label={reasons.find((r) => r.id === reason)?.name ?? ''} value={of(reason)} unit={item?.unit ?? ''} />}
      <Button tall look="next" className="w-full" onClick={() => choose({ what: 'inspected' })}>
        {bad === 0 ? `All ${formatQty(finding.checked)} passed` : `Keep: ${formatQty(bad)} failed`}
      </Button>
      <TakePhoto entry={asks.entry} choose={choose} />
      {isSample ? (
        <Field
          tall
          label="How many were looked at"
          inputMode="decimal"
          defaultValue={formatQty(finding.checked)}
          onBlur={(e) => {
            const read = parseQty(e.target.value.replace(',', '.'), 3);
            if (read.ok) choose({ what: 'sample', checked: read.value });
            else e.target.value = formatQty(finding.checked);
          }}
        />
      ) : (
        <button type="button" className="min-h-10 underline" onClick={() => setIsSample(true)}>
          Only some were looked at
        </button>
      )}
      <Field
        tall
        label="What else there is to say"
        maxLength={200}
        defaultValue={finding.note}
        onBlur={(e) => e.target.value !== finding.note && choose({ what: 'note', note: e.target.value })}
      />
      <Button tall className="w-full" onClick={() => choose({ what: 'goOn' })}>
        Leave it
      </Button>
    </Ask>
  );
}

function TakePhoto({ entry, choose }: { entry: string; choose: Choose }) {
  const input = useRef<HTMLInputElement>(null);
  const [taken, setTaken] = useState(0);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        className="sr-only"
        aria-label="Picture of the goods"
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          e.target.value = '';
          if (!file) return;
          smallPhoto(file).then(
            (jpeg) => {
              setTaken((n) => n + 1);
              choose({ what: 'photo', entry, jpeg });
            },
            (error: Error) => toast.error(error.message),
          );
        }}
      />
      <Button tall className="w-full" onClick={() => input.current?.click()}>
        {taken === 0 ? 'Take a picture' : `Take another picture (${taken} kept)`}
      </Button>
    </>
  );
}

/** What was looked at and what was not, to be looked at now or later. */
export function ToInspect({ job, choose }: { job: DeliveryJob; choose: Choose }) {
  const [shown, setShown] = useState(false);
  const goods = job.entries.filter((e) => e.item !== null);
  if (goods.length === 0) return null;
  const looked = goods.filter((e) => e.finding !== null);
  return (
    <details className="rounded border-2 border-line p-2" onToggle={(e) => setShown(e.currentTarget.open)}>
      <summary className="min-h-12 cursor-pointer text-lg leading-[3rem]">
        Inspect: {looked.length} of {goods.length} looked at
      </summary>
      {shown && (
        <ul>
          {entriesToInspect(job).map((e) => (
            <li key={e.key} className="flex flex-wrap items-center gap-2 border-t border-line py-1.5">
              <span className="min-w-0 flex-1">
                <span className="block truncate font-semibold">{entryWords(e)}</span>
                <FoundWords entry={e} />
              </span>
              <Button tall onClick={() => choose({ what: 'inspect', entry: e.key })}>
                {e.finding === null ? 'Inspect' : 'Inspect again'}
              </Button>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}

/** What was found of an entry, in a word or two. */
export function FoundWords({ entry: { finding, qty } }: { entry: HandEntry }) {
  if (finding === null) return <span className="text-sm text-soft">nobody looked yet</span>;
  const bad = failedOf(finding);
  if (bad > 0)
    return (
      <Tag tone="wrong">
        {formatQty(bad)} of {formatQty(finding.checked)} failed: to quarantine
      </Tag>
    );
  return <span className="text-sm text-soft">{finding.checked < qty ? `${formatQty(finding.checked)} as a sample passed` : 'passed'}</span>;
}
