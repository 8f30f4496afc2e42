import { useState, type ReactNode } from 'react';
import { readScan, scanFaultSentence } from '#core/items';
import {
  Button,
  sayMoment,
  Field,
  Refused,
  send,
  separatorKey,
  setSeparatorKey,
  sound,
  Unreached,
  useNextKey,
  useRead,
  useScanner,
} from '#web/base';
import { LineError, pokeCourier, theFloor, useFloor, type Answer } from '#web/hands';
import { Screen } from './screen.tsx';

const SHOWN_AT_MOST = 30;
/** Keys that codes are made of, or that end them: none of these can be the separator. */
const IN_CODES = /^([0-9A-Za-z]|Enter|Tab|Escape|Backspace|Shift|Control|Alt|Meta|CapsLock)$/;

/** This device: its name, its scanner, what it has taken along, and what it has not sent yet. */
export function ThisDevice() {
  const [answer, setAnswer] = useState<Answer | null>(null);
  const say = (next: Answer): void => {
    sound(next.tone);
    setAnswer(next);
  };
  const [setting, setSetting] = useState(false);
  const test = (code: string): void => {
    if (!setting) say(readingOf(code));
  };
  useScanner(test);
  return (
    <Screen title="This device" answer={answer} onScan={test} hint="Scan a label to test">
      <Name onSaid={say} />
      <SeparatorKey setting={setting} onSetting={setSetting} onSaid={say} />
      <OwnPrinter onSaid={say} />
      <OwnPin onSaid={say} />
      <TakenAlong onSaid={say} />
      <ToBeSent />
    </Screen>
  );
}

/** What a label says, spelt out, whoever knows it: the way to see whether a scanner sends all of it. */
export function readingOf(code: string): Answer {
  const read = readScan(code, new Date().getFullYear());
  if (!read.ok) return { tone: 'wrong', text: scanFaultSentence(read.error) };
  const { value } = read;
  if (value.kind !== 'elements')
    return { tone: 'right', text: `${value.kind === 'gtin' ? 'A number of goods' : 'Plain text'}: ${value.text}` };
  return { tone: 'right', text: value.elements.map((e) => `(${e.ai}) ${e.value}`).join(' ') };
}

function whyNot(error: unknown): string {
  if (error instanceof LineError && error.fault.kind === 'refused') return error.fault.says;
  if (error instanceof LineError && error.fault.kind === 'signIn') return 'Sign in again to name it.';
  return 'To name it, a connection is needed.';
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="space-y-2">
      <h2 className="border-b-2 border-ink font-bold">{title}</h2>
      {children}
    </section>
  );
}

/** The printer that this device uses, wherever it is carried (D6). */
function OwnPrinter({ onSaid }: { onSaid: (answer: Answer) => void }) {
  const printers = useRead('hands.printer', {});
  const { data } = printers;
  const use = (printer: number | null, says: string): void =>
    void send('hands.usePrinter', { body: { printer } }).then(
      () => (onSaid({ tone: 'right', text: says }), printers.refetch()),
      (error: Error) =>
        onSaid({ tone: 'wrong', text: error instanceof Unreached ? 'To choose it, a connection is needed.' : error.message }),
    );
  if (!data || data.printers.length === 0) return null;
  return (
    <Part title="Printer">
      <div className="grid gap-2">
        {data.printers.map((p) => (
          <Button
            key={p.id}
            tall
            aria-pressed={data.printer === p.id}
            className={data.printer === p.id ? 'border-4! font-bold' : ''}
            onClick={() => use(p.id, `Labels from here come out at ${p.name}.`)}
          >
            {p.name}
          </Button>
        ))}
        <Button
          tall
          look="quiet"
          aria-pressed={data.printer === null}
          onClick={() => use(null, 'Labels come out where the zone has its printer.')}
        >
          {data.printer === null ? 'The zone’s printer is used' : 'Use the zone’s printer'}
        </Button>
      </div>
    </Part>
  );
}

function Name({ onSaid }: { onSaid: (answer: Answer) => void }) {
  const { device } = useFloor();
  const [name, setName] = useState<string | null>(null);
  const text = name ?? device ?? '';
  return (
    <Part title="Name">
      <form
        className="flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          theFloor()
            .greet(text.trim())
            .then(
              () => onSaid({ tone: 'right', text: `It is “${text.trim()}” now.` }),
              (error: unknown) => onSaid({ tone: 'wrong', text: whyNot(error) }),
            );
        }}
      >
        <input
          aria-label="Name of this device"
          value={text}
          maxLength={40}
          onChange={(e) => setName(e.target.value)}
          className="min-h-14 min-w-0 flex-1 rounded border-2 border-ink bg-sheet px-3 text-xl"
        />
        <Button tall type="submit" disabled={text.trim() === '' || text.trim() === device}>
          Save
        </Button>
      </form>
      <p className="text-sm text-soft">The lead sees it under this name, with what it holds.</p>
    </Part>
  );
}

/** One's own PIN, changed where it is used. */
function OwnPin({ onSaid }: { onSaid: (answer: Answer) => void }) {
  const none = { now: '', next: '', again: '' };
  const [pins, setPins] = useState<typeof none | null>(null);
  if (!pins)
    return (
      <Part title="Your PIN">
        <Button tall className="w-full" onClick={() => setPins(none)}>
          Change your PIN
        </Button>
      </Part>
    );
  const change = async (): Promise<void> => {
    if (pins.next !== pins.again) return onSaid({ tone: 'wrong', text: 'The new PIN was typed in two ways. Type it twice the same.' });
    try {
      await send('people.ownSecret', { body: { password: pins.now, newPin: pins.next } });
      setPins(null);
      onSaid({ tone: 'right', text: 'Your PIN is changed. Everywhere else you are signed out.' });
    } catch (error) {
      onSaid({ tone: 'wrong', text: error instanceof Refused ? error.message : 'To change it, a connection is needed.' });
    }
  };
  const field = (name: keyof typeof none, label: string) => (
    <Field
      label={label}
      type="password"
      inputMode="numeric"
      autoComplete={name === 'now' ? 'current-password' : 'new-password'}
      tall
      autoFocus={name === 'now'}
      value={pins[name]}
      onChange={(e) => setPins({ ...pins, [name]: e.target.value })}
    />
  );
  return (
    <Part title="Your PIN">
      <form
        className="space-y-2"
        onSubmit={(event) => {
          event.preventDefault();
          void change();
        }}
      >
        {field('now', 'Your PIN now')}
        {field('next', 'A new PIN, four to eight digits')}
        {field('again', 'The new PIN again')}
        <div className="flex gap-2">
          <Button tall look="next" type="submit" className="flex-1" disabled={!pins.now || !pins.next || !pins.again}>
            Change it
          </Button>
          <Button tall onClick={() => setPins(null)}>
            Cancel
          </Button>
        </div>
      </form>
    </Part>
  );
}

function SeparatorKey({
  setting,
  onSetting,
  onSaid,
}: {
  setting: boolean;
  onSetting: (on: boolean) => void;
  onSaid: (answer: Answer) => void;
}) {
  const [own, setOwn] = useState(separatorKey());
  useNextKey(setting, (key) => {
    if (/^(Shift|Control|Alt|Meta)$/.test(key)) return;
    onSetting(false);
    if (key === 'Escape') return;
    if (IN_CODES.test(key)) return onSaid({ tone: 'wrong', text: `Codes are made of “${key}”: it cannot part them.` });
    setSeparatorKey(key);
    setOwn(key);
    onSaid({ tone: 'right', text: `“${key}” parts the elements of a code now.` });
  });
  return (
    <Part title="Scanner">
      <p className="text-sm text-soft">
        Labels with a lot and a date part them by a character that not every scanner can type. Scan one here: if its elements run into each
        other, set the scanner to type another key for it, and name that key.
      </p>
      <div className="flex items-center gap-2">
        <p className="flex-1">
          Separator: <span className="code font-semibold">{own === null ? 'as scanners send it' : `the key ${own}`}</span>
        </p>
        {own !== null && !setting && (
          <Button
            tall
            onClick={() => {
              setSeparatorKey(null);
              setOwn(null);
            }}
          >
            As usual
          </Button>
        )}
        <Button tall aria-pressed={setting} onClick={() => onSetting(!setting)}>
          {setting ? 'Press that key …' : 'Name a key'}
        </Button>
      </div>
    </Part>
  );
}

function TakenAlong({ onSaid }: { onSaid: (answer: Answer) => void }) {
  const { taken, lasting } = useFloor();
  const { facts } = theFloor();
  const [busy, setBusy] = useState(false);
  const again = (): void => {
    setBusy(true);
    theFloor()
      .take()
      .then(
        () => onSaid({ tone: 'right', text: 'It is up to date.' }),
        () => onSaid({ tone: 'wrong', text: 'There is no connection. It works on with what it knows.' }),
      )
      .finally(() => setBusy(false));
  };
  return (
    <Part title="Taken along">
      <div className="flex items-center gap-2">
        <p className="flex-1">
          {[...facts.bins()].length} bins and their goods, as of <strong>{taken && sayMoment(new Date(taken.at).toISOString())}</strong>
          {!lasting && '. This browser keeps nothing: they are gone with the page'}
        </p>
        <Button tall disabled={busy} onClick={again}>
          {busy ? 'One moment …' : 'Ask now'}
        </Button>
      </div>
    </Part>
  );
}

function ToBeSent() {
  useFloor();
  const acts = theFloor().waitingActs();
  return (
    <Part title="To be sent">
      {acts.length === 0 ? (
        <p className="text-soft">Everything that was done here is with the server.</p>
      ) : (
        <>
          <ol className="space-y-1" aria-label="To be sent">
            {acts.slice(0, SHOWN_AT_MOST).map((a) => (
              <li key={a.key} className="flex gap-2">
                <span className="text-soft">{sayMoment(a.at)}</span>
                <span>{a.words}</span>
              </li>
            ))}
          </ol>
          {acts.length > SHOWN_AT_MOST && <p className="text-soft">and {acts.length - SHOWN_AT_MOST} more</p>}
          <Button tall className="w-full" onClick={() => pokeCourier(0)}>
            Send now
          </Button>
        </>
      )}
    </Part>
  );
}
