import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Button, Field, forgetSite, read, send, sound, Trouble, useRead, useScanner } from '#web/base';
import { useFloor } from '#web/hands';

/** Where one comes in: by name and password at the desk, by badge and PIN on a handheld, by one-time code as the first lead. */
export function Door({ closed, name: who }: { closed: string | null; name: string }) {
  const { data: door } = useRead('people.door', {});
  const { waiting } = useFloor();
  const small = window.innerWidth < 700;
  const [byBadge, setByBadge] = useState(small);
  const [name, setName] = useState(small ? '' : who);
  const [secret, setSecret] = useState('');
  const [code, setCode] = useState('');
  const [problem, setProblem] = useState<Error | null>(null);
  const client = useQueryClient();
  const go = useNavigate();
  useScanner((badge) => {
    setByBadge(true);
    setName(badge);
    document.getElementById('secret')?.focus();
  });
  const enter = async (how: { name: string; secret: string; badge: boolean }): Promise<void> => {
    setProblem(null);
    forgetSite();
    try {
      if (door?.firstLead && !how.badge) await send('people.firstLead', { body: { code, name: how.name, password: how.secret } });
      else if (how.badge) await send('people.badgeIn', { body: { badge: how.name, pin: how.secret } });
      else await send('people.signIn', { body: { name: how.name, password: how.secret } });
      // What was asked before this moment is answered for whoever was here then.
      await client.cancelQueries({ queryKey: ['people.me'] });
      const me = await read('people.me', {});
      client.setQueryData(['people.me', {}], me);
      // What was read by whoever was here before is theirs.
      void client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'people.me' });
      sound('right');
      // Whoever was called away comes back to where they were.
      if (window.location.pathname === '/') void go(how.badge ? '/h' : '/', { replace: true });
    } catch (error) {
      sound('wrong');
      setProblem(error as Error);
      setSecret('');
    }
  };
  const first = Boolean(door?.firstLead) && !byBadge;
  return (
    <main className="mx-auto grid max-w-4xl gap-8 p-4 pt-10 md:grid-cols-2 md:pt-24">
      <section>
        <h1 className="code text-6xl">Dock Row</h1>
        <p className="mb-6 text-soft">In at one door, onto shelves, out at another.</p>
        {closed !== null && <p className="mb-4 rounded border-2 border-ink bg-sheet p-3 text-lg">{closed}</p>}
        {waiting > 0 && (
          <p className="mb-4 rounded border-2 border-ink bg-sheet p-3 text-lg" data-testid="kept">
            <strong>
              {waiting} {waiting === 1 ? 'scan is' : 'scans are'} kept on this device
            </strong>{' '}
            under the name of whoever made them. They are sent as soon as somebody signs in.
          </p>
        )}
        <form
          className="space-y-3"
          onSubmit={(e) => {
            e.preventDefault();
            void enter({ name, secret, badge: byBadge });
          }}
        >
          {first && (
            <Field label="One-time code, from the server’s log" value={code} onChange={(e) => setCode(e.target.value)} tall autoFocus />
          )}
          <Field
            label={byBadge ? 'Badge: scan it' : 'Name'}
            value={name}
            onChange={(e) => setName(e.target.value)}
            tall={small}
            autoFocus={!first && name === ''}
            autoComplete="username"
          />
          <Field
            id="secret"
            autoFocus={!first && name !== ''}
            label={byBadge ? 'PIN' : first ? 'A password of at least 10 characters' : 'Password'}
            type="password"
            inputMode={byBadge ? 'numeric' : 'text'}
            value={secret}
            onChange={(e) => setSecret(e.target.value)}
            tall={small}
            autoComplete="current-password"
          />
          <Trouble error={problem} />
          <div className="flex gap-3">
            <Button look="next" type="submit" tall={small} className="flex-1" disabled={!name || !secret}>
              {first ? 'Make me the lead' : 'Sign in'}
            </Button>
            <Button
              look="quiet"
              onClick={() => {
                setByBadge(!byBadge);
                setName('');
                setSecret('');
              }}
            >
              {byBadge ? 'With password' : 'With badge'}
            </Button>
          </div>
        </form>
      </section>
      {door && door.people.length > 0 && (
        <section aria-label="People of the demo">
          <h2 className="mb-2 font-semibold">The demo’s people</h2>
          <p className="mb-3 text-sm text-soft">
            Made up, as everything here. Choose one to come in; at the desk with a password, on a handheld with badge and PIN.
          </p>
          <ul className="space-y-2">
            {door.people.map((p) => (
              <li key={p.name} className="flex items-center gap-3 rounded border border-line bg-sheet p-2">
                <span className="flex-1">
                  <strong>{p.name}</strong> <span className="text-soft">{p.role}</span>
                  <br />
                  <span className="code text-sm text-soft">
                    {p.badge} · PIN {p.pin}
                  </span>
                </span>
                <Button
                  onClick={() =>
                    void enter(small ? { name: p.badge, secret: p.pin, badge: true } : { name: p.name, secret: p.password, badge: false })
                  }
                >
                  Come in
                </Button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </main>
  );
}
