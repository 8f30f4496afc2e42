import { useState } from 'react';
import { toast } from 'sonner';
import { ROLES, type Role } from '#core/people';
import type { ReplyOf, Routes } from '#contract';
import type { Me } from '#contract/people';
import { Button, sayAgo, sayMoment, Empty, Field, SidePanel, Tag, Tick, Trouble, useRead, useSend } from '#web/base';
import { Select, useCommandForm } from '#web/forms';
import { LabelPanel } from '#web/labels';

type Person = ReplyOf<Routes['people.staff']>['staff'][number];

/** Everybody who may come in: what they are, where they work, how they come in, and what is open under their name. */
export function PeoplePage({ me }: { me: Me }) {
  const { data, error } = useRead('people.staff', {});
  const [chosen, setChosen] = useState<number | 'new' | null>(null);
  const person = data?.staff.find((p) => p.id === chosen);
  return (
    <div className="flex gap-6">
      <section className="min-w-0 flex-1">
        <div className="mb-3 flex items-center gap-4">
          <h1 className="code text-3xl">People</h1>
          <Button look="next" onClick={() => setChosen('new')}>
            Add a person
          </Button>
        </div>
        <Trouble error={error} />
        <table className="w-full text-left" aria-label="People">
          <thead className="text-sm text-soft">
            <tr>
              <th className="py-1 font-normal">Name</th>
              <th className="font-normal">Role</th>
              <th className="font-normal">Works at</th>
              <th className="font-normal">Comes in by</th>
              <th className="font-normal">Last in</th>
              <th className="text-right font-normal">Open sessions</th>
            </tr>
          </thead>
          <tbody>
            {data?.staff.map((p) => (
              <tr key={p.id} className={`border-t border-line ${p.id === chosen ? 'bg-shade' : ''} ${p.active ? '' : 'text-soft'}`}>
                <td className="py-1.5 pr-4">
                  <button
                    type="button"
                    className="text-left font-semibold underline decoration-line underline-offset-4"
                    aria-pressed={p.id === chosen}
                    onClick={() => setChosen(p.id)}
                  >
                    {p.name}
                  </button>{' '}
                  {!p.active && <Tag>locked</Tag>}
                  {p.shutOut && <Tag tone="wrong">too many tries</Tag>}
                </td>
                <td className="pr-4">{p.role}</td>
                <td className="pr-4">{p.sites.length === 0 ? <Tag tone="wrong">nowhere</Tag> : namesOf(me, p.sites)}</td>
                <td className="pr-4">{waysOf(p)}</td>
                <td>{p.lastIn ? sayAgo(p.lastIn) : 'never'}</td>
                <td className="text-right">{p.sessions}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <Limits />
      </section>
      {chosen === 'new' && <NewPerson me={me} onClose={() => setChosen(null)} onMade={setChosen} />}
      {person && <PersonPanel key={person.id} person={person} me={me} onClose={() => setChosen(null)} />}
    </div>
  );
}

const namesOf = (me: Me, sites: readonly number[]): string =>
  sites.map((id) => me.sites.find((s) => s.id === id)?.name ?? `site ${id}`).join(', ');
const waysOf = (p: Person): string =>
  [p.badge && p.hasPin && `badge ${p.badge}`, p.hasPassword && 'password'].filter(Boolean).join(', ') || 'no way in';
const ROLE_OPTIONS = ROLES.map((r) => [r, r] as [Role, string]);

function NewPerson({ me, onClose, onMade }: { me: Me; onClose: () => void; onMade: (id: number) => void }) {
  const form = useCommandForm('people.add', {
    first: { name: '', role: 'hand' as Role, sites: [me.site.id] as readonly number[], badge: '', pin: '', password: '' },
    input: ({ name, role, sites, badge, pin, password }) => ({
      body: { name, role, sites: [...sites], ...(badge && { badge }), ...(pin && { pin }), ...(password && { password }) },
    }),
    at: { 'people.nameTaken': 'name', 'people.badgeTaken': 'badge', 'people.weakPin': 'pin', 'people.weakPassword': 'password' },
    onDone: ({ id }, { name }) => {
      toast.success(`${name} can come in.`);
      onMade(id);
    },
  });
  const { name, sites } = form.values;
  const secret = { type: 'password', autoComplete: 'new-password' };
  return (
    <SidePanel title="A new person" onClose={onClose}>
      <form className="space-y-3" noValidate onSubmit={form.submit}>
        <Field label="Name" {...form.field('name')} autoFocus />
        <Select label="Role" {...form.chosen('role')} options={ROLE_OPTIONS} />
        <Sites
          me={me}
          sites={sites}
          onChange={(site, works) => form.set({ sites: works ? [...sites, site] : sites.filter((s) => s !== site) })}
        />
        <Field code label="Badge" {...form.field('badge')} />
        <Field code label="PIN" {...secret} {...form.field('pin')} />
        <Field label="Password" {...secret} {...form.field('password')} />
        <p className="text-sm text-soft">A hand comes in by badge and PIN on a handheld. The desk asks for a password.</p>
        <Trouble error={form.trouble} />
        <Button look="next" type="submit" className="w-full" disabled={!name.trim() || sites.length === 0 || form.isSending}>
          Add {name.trim() || 'them'}
        </Button>
      </form>
    </SidePanel>
  );
}

function Sites({ me, sites, onChange }: { me: Me; sites: readonly number[]; onChange: (site: number, works: boolean) => void }) {
  return (
    <fieldset>
      <legend className="text-sm text-soft">Works at</legend>
      {me.sites.map((s) => (
        <Tick key={s.id} label={s.name} checked={sites.includes(s.id)} onChange={(e) => onChange(s.id, e.target.checked)} />
      ))}
    </fieldset>
  );
}

function PersonPanel({ person, me, onClose }: { person: Person; me: Me; onClose: () => void }) {
  const [badge, setBadge] = useState(person.badge ?? '');
  const [pin, setPin] = useState('');
  const [password, setPassword] = useState('');
  const [isLabelling, setIsLabelling] = useState(false);
  const params = { id: person.id };
  const change = useSend('people.change', {
    quiet: true,
    onDone: () => {
      toast.success(`${person.name} is changed.`);
      setPin('');
      setPassword('');
    },
  });
  const assign = useSend('people.assign', { quiet: true });
  const end = useSend('people.endSessions', { quiet: true, onDone: (r) => toast.success(`${r.ended} ended.`) });
  const letIn = useSend('people.letIn', { quiet: true, onDone: () => toast.success(`${person.name} may try again.`) });
  const changed = badge.trim() !== (person.badge ?? '') || pin !== '' || password !== '';
  return (
    <SidePanel title={person.name} onClose={onClose}>
      <div className="space-y-4">
        {person.shutOut && (
          <p className="flex items-center gap-2 border-2 border-wrong bg-wrong-pale p-2">
            <span className="flex-1">Too many tries. The door opens by itself in five minutes.</span>
            <Button onClick={() => letIn.mutate({ params })}>Let in now</Button>
          </p>
        )}
        <Select label="Role" value={person.role} onChange={(v) => change.mutate({ params, body: { role: v } })} options={ROLE_OPTIONS} />
        <Sites me={me} sites={person.sites} onChange={(site, works) => assign.mutate({ params, body: { site, works } })} />
        <form
          className="space-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            change.mutate({
              params,
              body: {
                ...(badge.trim() !== (person.badge ?? '') && { badge: badge.trim() || null }),
                ...(pin && { pin }),
                ...(password && { password }),
              },
            });
          }}
        >
          <Field code label="Badge" value={badge} onChange={(e) => setBadge(e.target.value)} />
          <Field
            code
            label={person.hasPin ? 'A new PIN' : 'PIN'}
            type="password"
            autoComplete="new-password"
            value={pin}
            onChange={(e) => setPin(e.target.value)}
          />
          <Field
            label={person.hasPassword ? 'A new password' : 'Password'}
            type="password"
            autoComplete="new-password"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
          <Button type="submit" look={changed ? 'next' : 'plain'} className="w-full" disabled={!changed || change.isPending}>
            Save
          </Button>
          {changed && (pin !== '' || password !== '') && person.id !== me.id && (
            <p className="text-sm text-soft">Their open sessions end with it.</p>
          )}
        </form>
        <Trouble error={change.error ?? assign.error ?? end.error ?? letIn.error} />
        {person.badge !== null && person.active && (
          <Button className="w-full" aria-expanded={isLabelling} onClick={() => setIsLabelling(!isLabelling)}>
            Print the badge
          </Button>
        )}
        {isLabelling && <LabelPanel of={person.name} wanted={{ kind: 'badge', person: person.id }} onDone={() => setIsLabelling(false)} />}
        <Button className="w-full" onClick={() => change.mutate({ params, body: { active: !person.active } })}>
          {person.active ? `Lock ${person.name} out` : `Let ${person.name} in again`}
        </Button>
        <Sessions person={person} onEndAll={() => end.mutate({ params })} />
        <Events person={person.id} />
      </div>
    </SidePanel>
  );
}

/** Where somebody is signed in just now, each to be ended alone. */
function Sessions({ person, onEndAll }: { person: Person; onEndAll: () => void }) {
  const { data, error } = useRead('people.sessions', { params: { id: person.id } });
  const end = useSend('people.endSession', { quiet: true, onDone: () => toast.success('That session has ended.') });
  return (
    <section aria-label="Open sessions">
      <h3 className="flex items-baseline border-b border-line font-semibold">
        <span className="flex-1">Signed in on</span>
        {(data?.sessions.length ?? 0) > 1 && (
          <Button look="quiet" onClick={onEndAll}>
            End all {data?.sessions.length}
          </Button>
        )}
      </h3>
      <Trouble error={error ?? end.error} />
      {data?.sessions.length === 0 && <p className="py-1 text-sm text-soft">No device just now.</p>}
      <ul>
        {data?.sessions.map((s) => (
          <li key={s.number} className="flex items-center gap-2 border-b border-line py-1 text-sm">
            <span className="min-w-0 flex-1">
              <span className="font-semibold">{s.handheld ?? (s.device || 'a device')}</span>
              {s.handheld && `, ${s.device}`}, by {s.by}
              {s.isOwn && (
                <>
                  {' '}
                  <Tag>this one</Tag>
                </>
              )}
              <span className="block text-soft">
                since {sayMoment(s.since)}, used {sayAgo(s.seen)}
              </span>
            </span>
            <Button onClick={() => end.mutate({ params: { id: person.id, number: s.number } })}>End</Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How long a sign-in lasts: at a desk with nobody at it, and on a handheld. */
function Limits() {
  const { data } = useRead('people.limits', {});
  const [form, setForm] = useState<{ desk: string; shift: string } | null>(null);
  const save = useSend('people.setLimits', {
    quiet: true,
    onDone: () => {
      toast.success('It holds from now on, for open sessions too.');
      setForm(null);
    },
  });
  if (!data) return null;
  const shown = form ?? { desk: String(data.deskIdleMinutes), shift: String(data.shiftHours) };
  const isChanged = shown.desk !== String(data.deskIdleMinutes) || shown.shift !== String(data.shiftHours);
  return (
    <form
      aria-label="How long a sign-in lasts"
      className="mt-8 max-w-2xl border-t-2 border-ink pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({ body: { deskIdleMinutes: Number(shown.desk), shiftHours: Number(shown.shift) } });
      }}
    >
      <h2 className="font-semibold">How long a sign-in lasts</h2>
      <div className="flex flex-wrap items-end gap-4">
        <Field
          label="A desk with nobody at it closes after, minutes"
          inputMode="numeric"
          value={shown.desk}
          onChange={(e) => setForm({ ...shown, desk: e.target.value })}
        />
        <Field
          label="A sign-in by badge lasts, hours"
          inputMode="numeric"
          value={shown.shift}
          onChange={(e) => setForm({ ...shown, shift: e.target.value })}
        />
        <Button type="submit" look={isChanged ? 'next' : 'plain'} disabled={!isChanged || save.isPending}>
          Save
        </Button>
      </div>
      <p className="text-sm text-soft">
        What was typed stays behind the door. What was scanned is kept on its device and sent after the next sign-in.
      </p>
      <Trouble error={save.error} />
    </form>
  );
}

const WHAT: Readonly<Record<string, string>> = {
  in: 'came in',
  tried: 'tried in vain',
  shutOut: 'was shut out: too many tries',
  letIn: 'got the tries back',
  added: 'was added as',
  changed: 'was changed:',
  locked: 'was locked out',
  unlocked: 'was unlocked',
  ended: 'sessions ended:',
  over: 'was signed out:',
  limits: 'the limits of a sign-in were set:',
  sites: '',
};

function Events({ person }: { person: number }) {
  const { data } = useRead('people.events', { query: { person } });
  return (
    <section aria-label="What happened">
      <h3 className="border-b border-line font-semibold">What happened</h3>
      {data?.events.length === 0 && <Empty title="Nothing yet.">Coming in, tries and changes are kept here.</Empty>}
      <ul className="text-sm">
        {data?.events.slice(0, 30).map((e) => (
          <li key={e.id} className="flex gap-2 py-0.5">
            <span className="w-20 shrink-0 text-soft">{sayMoment(e.at)}</span>
            <span>
              {[WHAT[e.what] ?? e.what, e.detail].filter(Boolean).join(' ')}
              {e.by && e.by !== e.person && <span className="text-soft">, by {e.by}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** One's own password and PIN. */
export function OwnSecret({ me }: { me: Me }) {
  const form = useCommandForm('people.ownSecret', {
    first: { password: '', newPassword: '', newPin: '' },
    input: ({ password, newPassword, newPin }) => ({ body: { password, ...(newPassword && { newPassword }), ...(newPin && { newPin }) } }),
    at: { 'people.wrongPassword': 'password', 'people.weakPassword': 'newPassword', 'people.weakPin': 'newPin' },
    onDone: () => {
      toast.success('It is changed.');
      form.reset();
    },
  });
  const { password, newPassword, newPin } = form.values;
  return (
    <form className="max-w-md space-y-3" noValidate onSubmit={form.submit}>
      <h1 className="code text-3xl">{me.name}</h1>
      <Field label="Your password as it is" type="password" autoComplete="current-password" {...form.field('password')} />
      <Field label="A new password" type="password" autoComplete="new-password" {...form.field('newPassword')} />
      <Field label="A new PIN for your badge" type="password" autoComplete="new-password" {...form.field('newPin')} />
      <p className="text-sm text-soft">Where you are signed in elsewhere, you are signed out by it.</p>
      <Trouble error={form.trouble} />
      <Button look="next" type="submit" disabled={!password || (!newPassword && !newPin) || form.isSending}>
        Change it
      </Button>
    </form>
  );
}
