import { useState } from 'react';
import { useNavigate, Link } from 'react-router';
import { toPut, toTake } from '#core/carrying';
import { isCounted } from '#core/counting';
import { meaningBy, meaningWords, type Meaning } from '#core/floor';
import { openOf } from '#core/picking';
import { deliveryTitle, fromWhom } from '#core/receiving';
import type { Me } from '#contract/people';
import { ago, Button, forgetSite, read, Refused, sayAgo, send, switchSite, Unreached, useRead, useSend } from '#web/base';
import { findOrder, whyNoRound } from './collect.tsx';
import { CARRY_TITLE } from './carry.tsx';
import { beginDelivery, deliveryOf, returnOf, scanUnit } from './begin-delivery.ts';
import { TallSelect } from './fields.tsx';
import { theFloor, useFloor } from '#web/hands';
import { useQueue } from './queue.ts';
import { Screen } from './screen.tsx';
import type { Answer } from '#web/hands';

const NEEDS_SERVER = 'To begin that, the server is needed, and there is no connection here. What is on the list works without.';

/** My work: the one list of a hand, and a scan line that takes anything. */
export function MyWork({ me }: { me: Me }) {
  const go = useNavigate();
  const floor = theFloor();
  const { taken, device } = useFloor();
  const workAt = useSend('people.workAt', { onDone: (there) => switchSite(there.site.id, '/h') });
  const { data: ready } = useRead('orders.list', { query: { ready: 'yes', limit: 200 } });
  const { answer, busy, take } = useQueue((code) => open(code, (path, answer) => void go(path, { state: { answer } })));
  return (
    <Screen title="My work" sub={`${me.name}, ${me.site.name}`} back={null} answer={answer} busy={busy} onScan={take} hint="Scan anything">
      {me.sites.length > 1 && (
        <TallSelect
          label="You work at"
          value={me.site.id}
          onChange={(v) => workAt.mutate({ body: { site: v } })}
          options={me.sites.map((s) => [s.id, s.name])}
        />
      )}
      <ul className="space-y-2">
        <Rounds me={me} />
        <Carries me={me} />
        <Deliveries />
        <Arrivals />
        <Counts />
      </ul>
      <ul aria-label="Begin" className="grid grid-cols-2 gap-2">
        <Begin to="/h/begin" figure="↓" title="New delivery" />
        <Begin to="/h/move" figure="→" title="Move goods" />
        <Begin to="/h/adjust" figure="±" title="More or fewer" />
        <Begin to="/h/quick-add" figure="+" title="New item by scan" detail="needs a connection" />
        <Begin to="/h/assign" figure="⌂" title="Home bins" detail="needs a connection" />
      </ul>
      {ready && ready.orders.length > 0 && (
        <p className="pt-2 text-soft">{ready.orders.length} orders can be picked whole: scan their sheets to make a round.</p>
      )}
      {taken && (
        <Link to="/h/device" className="flex min-h-14 items-center gap-2 text-sm text-soft underline" data-testid="taken">
          {device ?? 'This device'}: goods and bins taken along {sayAgo(new Date(taken.at).toISOString())}
        </Link>
      )}
      <Leave floor={floor} />
    </Screen>
  );
}

/** Opens what was scanned: what is on the device at once, what must be begun with the server's help. */
async function open(code: string, go: Leads): Promise<Answer | null> {
  const floor = theFloor();
  const meaning = meaningBy(floor.facts, code);
  switch (meaning.kind) {
    case 'bin':
      go(`/h/move?from=${encodeURIComponent(meaning.bin.address)}`);
      return { tone: 'right', text: meaning.bin.address };
    case 'paper':
      return openPaper(meaning, go);
    case 'item':
      return {
        tone: 'look',
        text: `${meaning.item.code} ${meaning.item.description}. To move it, scan its bin first; to put it away, open Put away.`,
      };
    case 'unit':
      return openUnit(code, meaning, go);
    case 'unknown':
      return openUnknown(code, go);
    default:
      return { tone: 'look', text: meaningWords(meaning) };
  }
}

/** Opens another screen, with what is said there of the scan that led to it. */
type Leads = (path: string, answer?: Answer) => void;
type Paper = Extract<Meaning, { kind: 'paper' }>;

async function openUnit(code: string, meaning: Extract<Meaning, { kind: 'unit' }>, go: Leads): Promise<Answer> {
  const floor = theFloor();
  const { here } = meaning;
  if (here) {
    const bin = floor.facts.bin(here.bin);
    return {
      tone: 'look',
      text: `${meaningWords(meaning)} It stands in ${bin?.address ?? ''}. To carry it, open Move goods and scan it there.`,
    };
  }
  // It may have been announced a moment ago.
  if (!meaning.announced) await floor.take().catch(() => undefined);
  const led = await scanUnit(code, { sscc: meaning.sscc, announced: floor.facts.announced(meaning.sscc) ?? null });
  if (!led)
    return { tone: 'look', text: `${meaningWords(meaning)} Nobody announced it. Begin a delivery, then scan it and what is in it.` };
  go(led.path, led.answer);
  return led.answer;
}

async function openPaper(meaning: Paper, go: Leads): Promise<Answer | null> {
  const floor = theFloor();
  const number = meaning.text.trim().toUpperCase();
  const opened = (path: string): Answer => {
    go(path);
    return { tone: 'right', text: number };
  };
  const here = pathOf(meaning.paper, number);
  if (here !== null) return opened(here);
  if (meaning.paper === 'purchaseOrder') {
    const ordered = (): number | undefined => floor.purchaseOrders().find((o) => o.number === number)?.id;
    // It may have been approved a moment ago.
    if (ordered() === undefined) await floor.take().catch(() => undefined);
    const order = ordered();
    if (order === undefined) return { tone: 'wrong', text: `${number} is not to come here: not approved, or all of it has come.` };
    return opened(`/h/receive/${deliveryOf(number) ?? (await beginDelivery({ supplier: null, orders: [order] }))}`);
  }
  if (meaning.paper === 'shipment') {
    // It may have left a moment ago.
    const sent = (): number | undefined => floor.shipments().find((s) => s.number === number)?.id;
    if (sent() === undefined) await floor.take().catch(() => undefined);
    const shipment = sent();
    if (shipment === undefined) return { tone: 'wrong', text: `${number} did not leave this site within the last months.` };
    return opened(`/h/receive/${await beginDelivery({ supplier: null, orders: [], back: { shipment } })}`);
  }
  if (meaning.paper === 'order') return openOrder(number, go);
  // It may have been made a moment ago, and the device has not heard of it yet.
  await floor.take().catch(() => undefined);
  const now = pathOf(meaning.paper, number);
  return now === null
    ? { tone: 'wrong', text: `${meaningWords(meaning)} It is not on this device: ended, or of another site.` }
    : opened(now);
}

// A sheet opens the list on which more of them are collected; it is said there what speaks against it.
async function openOrder(number: string, go: Leads): Promise<Answer> {
  return withServer(async () => {
    const refused = whyNoRound(number, await findOrder(number));
    if (refused !== null) return { tone: 'wrong', text: refused };
    const answer: Answer = { tone: 'right', text: `${number}. Scan it again to begin, or another sheet.` };
    go(`/h/collect?orders=${number}`, answer);
    return answer;
  });
}

/** Where the work on a paper is, as far as the device knows. */
function pathOf(paper: Paper['paper'], number: string): string | null {
  const floor = theFloor();
  const byNumber = (kind: 'round' | 'carry' | 'count'): number | undefined =>
    floor.ids(kind).find((id) => floor.row(kind, id)?.[1] === number);
  switch (paper) {
    case 'delivery':
    case 'purchaseOrder': {
      const ref = floor.deliveries().find((d) => floor.delivery(d)?.number === number) ?? deliveryOf(number);
      return ref === null ? null : `/h/receive/${ref}`;
    }
    case 'round':
    case 'order': {
      const id = byNumber('round') ?? floor.ids('round').find((r) => floor.round(r)?.picks.some((p) => p.order === number));
      return id === undefined ? null : `/h/round/${id}`;
    }
    case 'carry': {
      const id = byNumber('carry');
      return id === undefined ? null : `/h/carry/${id}`;
    }
    case 'count': {
      const id = byNumber('count');
      return id === undefined ? null : `/h/count/${id}`;
    }
    case 'shipment': {
      const ref = returnOf(number);
      return ref === null ? null : `/h/receive/${ref}`;
    }
    case 'document':
      return null;
  }
}

async function withServer(work: () => Promise<Answer>): Promise<Answer> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof Refused) return { tone: 'wrong', text: error.message };
    if (error instanceof Unreached || !(error instanceof Error)) return { tone: 'wrong', text: NEEDS_SERVER };
    throw error;
  }
}

// Nobody stocks it here; another site may have it as a bin, or a supplier may list it: only the server can tell.
async function openUnknown(code: string, go: (path: string) => void): Promise<Answer> {
  const nobody: Answer = { tone: 'look', text: `Nobody here knows “${code.trim().slice(0, 60)}”.` };
  try {
    const found = await read('desk.scan', { query: { code } });
    if (found.kind === 'elsewhere')
      return { tone: 'wrong', text: `${found.text} is a bin of ${found.sites.join(' and ')}. Change the site above to work there.` };
    const list = await read('items.search', { query: { q: code, over: 'lists' } });
    if (!list.listRows.some((r) => r.item === null)) return nobody;
    go(`/h/quick-add?code=${encodeURIComponent(code)}`);
    return { tone: 'right', text: 'It is on a supplier’s list.' };
  } catch {
    return nobody;
  }
}

function Rounds({ me }: { me: Me }) {
  const floor = theFloor();
  return floor.ids('round').map((id) => {
    const job = floor.round(id);
    if (!job || job.state !== 'open' || (job.person !== null && job.person !== me.id)) return null;
    const picks = job.picks.filter((p) => p.qty > 0);
    const done = picks.filter((p) => openOf(job, p) === 0).length;
    const orders = [...new Set(picks.map((p) => p.order))];
    return (
      <Work
        key={id}
        to={`/h/round/${id}`}
        figure={`${done}/${picks.length}`}
        title={`${job.person === null ? 'Take' : 'Go on with'} ${job.number}`}
        detail={`${orders.join(', ')} · ${ago(String(floor.row('round', id)?.[6]))}`}
      />
    );
  });
}

function Carries({ me }: { me: Me }) {
  const floor = theFloor();
  return floor.ids('carry').map((id) => {
    const job = floor.carry(id);
    if (!job || job.state !== 'open' || (job.person !== null && job.person !== me.id)) return null;
    const lines = job.tasks.filter((t) => t.qty > 0);
    const done = lines.filter((t) => toTake(job, t) <= 0 && toPut(job, t) <= 0).length;
    return (
      <Work
        key={id}
        to={`/h/carry/${id}`}
        figure={`${done}/${lines.length}`}
        title={`${job.person === null ? 'Take' : 'Go on with'} ${job.number}`}
        detail={`${CARRY_TITLE[job.kind]} · ${ago(String(floor.row('carry', id)?.[6]))}`}
      />
    );
  });
}

function Deliveries() {
  const floor = theFloor();
  return floor.deliveries().map((id) => {
    const job = floor.delivery(id);
    if (!job || job.state !== 'scanning') return null;
    const last = job.entries.reduce((latest, e) => (e.at > latest ? e.at : latest), '');
    return (
      <Work
        key={id}
        to={`/h/receive/${id}`}
        figure={String(job.entries.length)}
        title={deliveryTitle(job)}
        detail={`${fromWhom(job)} · ${last === '' ? 'nothing scanned yet' : `last scan ${sayAgo(last)}`}`}
      />
    );
  });
}

function Arrivals() {
  const { facts } = theFloor();
  const lying = { arrivals: 0, unplaced: 0 };
  for (const bin of facts.bins()) if (bin.use === 'arrivals' || bin.use === 'unplaced') lying[bin.use] += facts.contents(bin.id).length;
  return (
    <>
      {lying.arrivals > 0 && <Work to="/h/put-away" figure={String(lying.arrivals)} title="Put away" detail="what lies at arrivals" />}
      {lying.unplaced > 0 && (
        <Work to="/h/unplaced" figure={String(lying.unplaced)} title="Put away unplaced" detail="stock that has no bin yet" />
      )}
    </>
  );
}

function Counts() {
  const floor = theFloor();
  return floor.ids('count').map((id) => {
    const job = floor.count(id);
    if (!job || job.state !== 'open') return null;
    const counted = job.bins.filter((b) => isCounted(job, b.bin)).length;
    return <Work key={id} to={`/h/count/${id}`} figure={`${counted}/${job.bins.length}`} title={`Count ${job.zone}`} detail={job.number} />;
  });
}

const NEEDS_LINE = 'To sign out, a connection is needed. Until then the device is yours.';

/** Leaving: what waits is kept and sent, whoever works on the device then. */
function Leave({ floor }: { floor: ReturnType<typeof theFloor> }) {
  const { waiting, fault } = useFloor();
  const [asked, setAsked] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const leave = (): void => {
    // Asked at once rather than after many tries: who waits for that believes that they have left.
    if (!navigator.onLine || fault?.kind === 'away') return setProblem(NEEDS_LINE);
    send('people.signOut', {}).then(
      async () => {
        await floor.signedIn(null);
        forgetSite();
        window.location.assign('/h');
      },
      () => setProblem(NEEDS_LINE),
    );
  };
  return (
    <div className="space-y-2 pt-2">
      {asked && waiting > 0 && (
        <p className="text-lg">
          <strong>{waiting}</strong> {waiting === 1 ? 'scan waits' : 'scans wait'} to be sent. They are kept on this device under your name,
          and sent by whoever signs in next.
        </p>
      )}
      {problem && <p className="font-semibold text-wrong">{problem}</p>}
      <Button look="quiet" tall onClick={() => (waiting > 0 && !asked ? setAsked(true) : leave())}>
        {asked && waiting > 0 ? 'Sign out all the same' : 'Sign out'}
      </Button>
    </div>
  );
}

function Work({ to, figure, title, detail }: { to: string; figure: string; title: string; detail: string }) {
  return (
    <li>
      <Link to={to} className="flex min-h-20 items-center gap-3 rounded border-2 border-ink bg-sheet px-3">
        <span className="code w-20 text-right text-4xl">{figure}</span>
        <span className="min-w-0 flex-1">
          <span className="block truncate text-xl font-bold">{title}</span>
          <span className="block truncate text-soft">{detail}</span>
        </span>
      </Link>
    </li>
  );
}

/** Something to begin, that nobody has asked for: half as wide as work that waits. */
function Begin({ to, figure, title, detail }: { to: string; figure: string; title: string; detail?: string }) {
  return (
    <li>
      <Link to={to} className="flex h-full min-h-20 items-center gap-2 rounded border-2 border-ink bg-sheet px-2">
        <span className="code w-8 text-center text-3xl">{figure}</span>
        <span className="min-w-0 flex-1">
          <span className="block text-lg leading-tight font-bold">{title}</span>
          {detail && <span className="block text-sm text-soft">{detail}</span>}
        </span>
      </Link>
    </li>
  );
}
