import { useDeferredValue, useState } from 'react';
import { useSearchParams } from 'react-router';
import { toast } from 'sonner';
import {
  firstArrangement,
  isSamePaper,
  LABEL_KINDS,
  LABEL_PARTS,
  MOST_TEXTS,
  ownKey,
  USUAL_CONTENTS,
  USUAL_PAPERS,
  type LabelKind,
  type OwnPart,
  type Paper,
} from '#core/labels';
import type { ReplyOf, Routes } from '#contract';
import type { ContentsBody } from '#contract/labels';
import { Button, ButtonLink, Field, sayMoment, Tag, Tick, Trouble, Unsaved, uploadFile, useMe, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';
import { FileDrop } from '#web/work';
import { ArrangeLabel, scaleOf } from './arrange.tsx';
import { arrangedFor, ofToday, partsOf, withArranged, withoutText, withShown } from './arranging.ts';
import { keyOf, usePapers, type NamedPaper } from './papers.tsx';

const KINDS: Readonly<Record<LabelKind, string>> = {
  item: 'Items, lots and serials',
  bin: 'Bins',
  shelf: 'Prices on shelves',
  order: 'Orders',
  unit: 'Pallets and cartons',
  tote: 'Slots of a cart',
  parcel: 'Parcels',
  badge: 'Badges',
};
type Kept = ReplyOf<Routes['labels.contents']>;
type Draft = ReplyOf<Routes['labels.draft']>;

/** What stands on each kind of label, and where (D2): data of the house, seen as it will be printed. Leads change it. */
export function LabelContents() {
  const [params, setParams] = useSearchParams();
  const kind = LABEL_KINDS.find((k) => k === params.get('kind')) ?? 'item';
  const papers = usePapers();
  const usual = keyOf(papers, USUAL_PAPERS[kind]);
  const paper = papers.find((p) => p.key === (params.get('paper') ?? usual)) ?? papers[0];
  const { data, error } = useRead('labels.contents', { params: { kind } });
  const set = (over: Record<string, string>): void =>
    setParams({ kind, ...(paper ? { paper: paper.key } : {}), ...over }, { replace: true });
  return (
    <div>
      <div className="mb-4 flex flex-wrap items-end gap-4 border-b-4 border-ink pb-2">
        <h1 className="code mr-auto text-3xl leading-tight">What stands on labels</h1>
        <ButtonLink look="quiet" to="/printer">
          Printers
        </ButtonLink>
      </div>
      <div className="mb-4 flex flex-wrap gap-4">
        <Select
          label="Kind"
          className="w-64"
          value={kind}
          options={LABEL_KINDS.map((k) => [k, KINDS[k]] as const)}
          onChange={(k) => setParams({ kind: k }, { replace: true })}
        />
        <Select
          label="Labels"
          className="w-72"
          value={paper?.key ?? ''}
          options={papers.map((p) => [p.key, p.says] as const)}
          onChange={(key) => set({ paper: key })}
        />
      </div>
      <Trouble error={error} />
      {data && paper && <Editor key={kind} kind={kind} kept={data} paper={paper} />}
    </div>
  );
}

function Editor({ kind, kept, paper: named }: { kind: LabelKind; kept: Kept; paper: NamedPaper }) {
  const { me } = useMe();
  const isLead = me?.role === 'lead';
  const [base, setBase] = useState({ version: kept.version, contents: kept.contents });
  const [drafts, setDrafts] = useState<readonly ContentsBody[]>([kept.contents]);
  const draft = ofToday(kind, drafts.at(-1) ?? kept.contents, kept.own);
  const isChanged = JSON.stringify(draft) !== JSON.stringify(ofToday(kind, base.contents, kept.own));
  const begin = (from: Pick<Kept, 'version' | 'contents'>): void => {
    setBase(from);
    setDrafts([from.contents]);
  };
  // What somebody else kept is shown where nothing of one's own is unsaved; otherwise it is said.
  const isOvertaken = kept.version > base.version;
  if (isOvertaken && !isChanged) begin(kept);
  // Of what is there when it is done: a picture that is being sent meets what was dragged meanwhile.
  const change = (over: (was: ContentsBody) => ContentsBody): void =>
    setDrafts((was) => [...was.slice(-100), over(was.at(-1) ?? kept.contents)]);
  const undo = (): void => setDrafts((was) => (was.length > 1 ? was.slice(0, -1) : was));
  const paper: Paper = { widthMm: named.widthMm, heightMm: named.heightMm };
  const asked = useDeferredValue(JSON.stringify({ ...draft, arranged: draft.arranged.filter((a) => isSamePaper(a, paper)) }));
  const { data: seen, error } = useRead('labels.draft', { params: { kind }, query: { contents: asked, ...paper } }, { keep: true });
  const save = useSend('labels.setContents', {
    onDone: () => {
      begin({ version: base.version + 1, contents: draft });
      toast.success('Kept. Labels that are asked for from now on look so.');
    },
  });
  const arranged = arrangedFor(draft, paper);
  const parts = partsOf(kind, draft, kept.own);
  const first = seen?.checks[0];
  const missed = arranged ? (seen?.checks.filter((c) => c.says === first?.says).flatMap((c) => c.misses) ?? []) : [];
  const arrange = (): void => {
    const logo = draft.logo === null ? null : { file: draft.logo, width: 1, height: 1 };
    const made = firstArrangement(kind, { ...draft, logo }, paper);
    if (made) change((was) => withArranged(was, paper, made.boxes));
    else toast.error('These labels are too small to arrange so much: hide something first.');
  };
  return (
    <div
      className="grid grid-cols-1 items-start gap-8 lg:grid-cols-[minmax(0,1fr)_22rem]"
      onKeyDown={(e) => {
        if (e.key.toLowerCase() === 'z' && (e.ctrlKey || e.metaKey) && !(e.target instanceof HTMLInputElement)) undo();
      }}
    >
      <Unsaved when={isChanged} what="What stands on labels" />
      <section aria-label="The label">
        {arranged ? (
          <ArrangeLabel
            paper={paper}
            parts={parts}
            boxes={arranged.boxes}
            svg={seen?.svg ?? null}
            drawn={seen?.drawn ?? []}
            missed={missed}
            onChange={(boxes) => isLead && change((was) => withArranged(was, paper, boxes))}
          />
        ) : (
          <Seen seen={seen} paper={paper} />
        )}
        <Trouble error={error ?? save.error} />
        {isOvertaken && isChanged && (
          <p role="alert" className="mt-2 font-semibold text-wrong">
            {kept.by} changed these labels meanwhile. <Button onClick={() => begin(kept)}>Look at them, and leave mine</Button>
          </p>
        )}
        {isLead && (
          <div className="mt-3 flex flex-wrap gap-2">
            <Button
              look="next"
              disabled={!isChanged || save.isPending || missed.length > 0 || first?.isLabel === false || error !== null}
              onClick={() => save.mutate({ params: { kind }, body: { ...draft, version: base.version } })}
            >
              Keep it
            </Button>
            {arranged ? (
              <Button onClick={() => change((was) => withArranged(was, paper, null))}>By the rule again</Button>
            ) : (
              <Button onClick={arrange}>Arrange these labels</Button>
            )}
            <Button disabled={drafts.length < 2} onClick={undo}>
              Undo
            </Button>
            {kept.before && (
              <Button look="quiet" onClick={() => change((was) => kept.before ?? was)}>
                As it was before
              </Button>
            )}
            <Button look="quiet" onClick={() => change(() => usualOf(kind))}>
              As usual
            </Button>
          </div>
        )}
        <Checks seen={seen} isArranged={arranged !== undefined} />
      </section>
      <div className="space-y-6">
        <Parts kind={kind} draft={draft} own={kept.own} isLead={isLead} onChange={(over) => change((was) => withShown(kind, was, over))} />
        {isLead && (
          <Texts
            draft={draft}
            onAdd={(text) => change((was) => withShown(kind, was, { texts: [...was.texts, text] }))}
            onTakeAway={(n) => change((was) => withoutText(kind, was, n))}
          />
        )}
        {isLead && <LogoChoice draft={draft} onChange={(logo) => change((was) => withShown(kind, was, { logo }))} />}
        {kind === 'item' && <LotRule isLead={isLead} />}
        <p className="text-sm text-soft">
          {kept.by && kept.at ? `Last changed by ${kept.by}, ${sayMoment(kept.at)}.` : 'Nobody changed these labels yet.'} What is on its
          way to a printer stays as it was asked for.
        </p>
      </div>
    </div>
  );
}

const usualOf = (kind: LabelKind): ContentsBody => ({ shown: [...USUAL_CONTENTS[kind].shown], texts: [], logo: null, arranged: [] });

function Seen({ seen, paper }: { seen: Draft | undefined; paper: Paper }) {
  return (
    <figure>
      {seen?.svg ? (
        <img
          alt="A made-up label, as it will be printed"
          src={`data:image/svg+xml;utf8,${encodeURIComponent(seen.svg)}`}
          style={{ width: paper.widthMm * scaleOf(paper) }}
          className="max-w-full border border-line bg-white"
        />
      ) : (
        <p className="border border-line bg-white p-8 text-ink">{seen ? 'No such label can be printed on these.' : 'is being drawn'}</p>
      )}
      <figcaption className="mt-1 text-soft">The rule lays it out: a made-up label, larger than it is.</figcaption>
      <ul>
        {seen?.unsaid.map((says) => (
          <li key={says} className="font-semibold text-wrong">
            {says}
          </li>
        ))}
      </ul>
    </figure>
  );
}

/** What becomes of everyday labels and of long ones at every head. */
function Checks({ seen, isArranged }: { seen: Draft | undefined; isArranged: boolean }) {
  return (
    <section aria-label="Whether everything fits" className="mt-6">
      <h2 className="border-b-2 border-ink font-bold">Whether everything fits</h2>
      <ul>
        {seen?.checks.map((c) => (
          <li key={`${c.says} ${c.dpi.join()}`} className="flex flex-wrap items-baseline gap-2 border-b border-line py-1">
            <Tag tone={!c.isLabel || c.misses.length > 0 ? 'wrong' : 'settled'}>
              {!c.isLabel ? 'no label' : c.misses.length > 0 ? 'no room' : 'fits'}
            </Tag>
            <span className="min-w-0 flex-1">
              {c.says}
              {c.misses.length > 0 && `: ${c.misses.join(', ')}`}
              {c.misses.length > 0 && isArranged && c.isLabel && '. Such a label is laid out by the rule.'}
              {!c.isLabel && ' is refused when it is asked for'}
            </span>
            <span className="text-soft">{c.dpi.join(', ')} dots</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Parts({
  kind,
  draft,
  own,
  isLead,
  onChange,
}: {
  kind: LabelKind;
  draft: ContentsBody;
  own: readonly OwnPart[];
  isLead: boolean;
  onChange: (over: Partial<ContentsBody>) => void;
}) {
  const must = LABEL_PARTS[kind].filter((p) => p.must);
  const may = [...LABEL_PARTS[kind].filter((p) => !p.must), ...own.map(({ id, label }) => ({ key: ownKey(id), says: label }))];
  return (
    <section aria-label="What stands there">
      <h2 className="border-b-2 border-ink font-bold">What stands there</h2>
      <p className="py-1 text-soft">Always: the code to scan, {must.map((p) => p.says.toLowerCase()).join(', ')}.</p>
      {may.map(({ key, says }) => (
        <Tick
          key={key}
          label={says}
          checked={draft.shown.includes(key)}
          disabled={!isLead}
          onChange={(e) => onChange({ shown: e.target.checked ? [...draft.shown, key] : draft.shown.filter((k) => k !== key) })}
        />
      ))}
    </section>
  );
}

function Texts({ draft, onAdd, onTakeAway }: { draft: ContentsBody; onAdd: (text: string) => void; onTakeAway: (n: number) => void }) {
  const [typed, setTyped] = useState('');
  return (
    <section aria-label="Words of the house">
      <h2 className="border-b-2 border-ink font-bold">Words of the house</h2>
      <ul>
        {draft.texts.map((text, n) => (
          <li key={text} className="flex items-center gap-2 border-b border-line py-1">
            <span className="min-w-0 flex-1 break-words">{text}</span>
            <Button look="quiet" onClick={() => onTakeAway(n)}>
              Take away
            </Button>
          </li>
        ))}
      </ul>
      {draft.texts.length < MOST_TEXTS && (
        <form
          className="mt-1 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            const text = typed.trim();
            if (text === '' || draft.texts.includes(text)) return;
            onAdd(text);
            setTyped('');
          }}
        >
          <Field label="Such as: Keep dry" className="flex-1" value={typed} maxLength={120} onChange={(e) => setTyped(e.target.value)} />
          <Button type="submit" disabled={typed.trim() === ''}>
            Add
          </Button>
        </form>
      )}
    </section>
  );
}

/** What becomes of lot numbers that no code can hold, with a space or an ü in them: printed in letters, or not taken at all. */
function LotRule({ isLead }: { isLead: boolean }) {
  const { data } = useRead('items.lotRule', {});
  const set = useSend('items.setLotRule', { onDone: () => toast.success('So it is, on every handheld from its next look on.') });
  return (
    <section aria-label="Lots that no code can hold">
      <h2 className="border-b-2 border-ink font-bold">Lots that no code can hold</h2>
      <p className="py-1 text-soft">Such as “LOT 7”, which has a space, or one of more than twenty characters.</p>
      {([false, true] as const).map((only) => (
        <label key={String(only)} className="flex min-h-9 items-center gap-2">
          <input
            type="radio"
            name="lot-rule"
            className="size-5 accent-ink"
            checked={data?.onlyThatRead === only}
            disabled={!isLead || set.isPending || !data}
            onChange={() => set.mutate({ body: { onlyThatRead: only } })}
          />
          {only ? 'are refused where somebody types them' : 'are taken, and stand on labels in letters only'}
        </label>
      ))}
      <Trouble error={set.error} />
    </section>
  );
}

const MOST_LOGO_MB = 8;

function LogoChoice({ draft, onChange }: { draft: ContentsBody; onChange: (logo: number | null) => void }) {
  const [isBusy, setIsBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const take = (file: File): void => {
    const megabytes = Math.ceil(file.size / 1_000_000);
    if (megabytes > MOST_LOGO_MB)
      return setProblem(new Error(`${file.name} has ${megabytes} MB; a logo has at most ${MOST_LOGO_MB} MB. Nothing of it was sent.`));
    setIsBusy(true);
    setProblem(null);
    uploadFile(file)
      .then((sent) => onChange(sent.id), setProblem)
      .finally(() => setIsBusy(false));
  };
  return (
    <section aria-label="Logo">
      <h2 className="border-b-2 border-ink font-bold">Logo</h2>
      {draft.logo !== null && (
        <div className="flex items-center gap-3 py-2">
          <img src={`/api/files/${draft.logo}?thumb`} alt="The logo" className="h-16 max-w-40 border border-line bg-white object-contain" />
          <Button look="quiet" onClick={() => onChange(null)}>
            Take away
          </Button>
        </div>
      )}
      <FileDrop label={draft.logo === null ? 'Drop a picture' : 'Drop another picture'} accept="image/*" busy={isBusy} onFile={take} />
      <p className="text-sm text-soft">Labels are black and white: greys become dots.</p>
      <Trouble error={problem} />
    </section>
  );
}
