import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { buildGrid, checkGrid, levelValues, placesSentence, type BinGrid, type GridLevel } from '#core/places';
import { Button, Empty, Field, Plate, Tick, Trouble, useRead, useSend, sayNumber } from '#web/base';
import { Select } from '#web/forms';
import { PlacesFrame, useMySite } from './frame.tsx';

type LevelForm = { kind: 'letters' | 'numbers'; from: string; to: string; digits: string; skip: string };
const NAMES = ['Aisle', 'Bay', 'Shelf', 'Position', 'Part'];
const FIRST: readonly LevelForm[] = [
  { kind: 'letters', from: 'G', to: 'H', digits: '2', skip: '' },
  { kind: 'numbers', from: '1', to: '12', digits: '2', skip: '' },
  { kind: 'numbers', from: '1', to: '4', digits: '1', skip: '' },
];

const skips = (text: string): string[] =>
  text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map((s) => s.toUpperCase());
function levelOf(form: LevelForm): GridLevel {
  return form.kind === 'letters'
    ? { kind: 'letters', from: form.from.toUpperCase(), to: form.to.toUpperCase(), skip: skips(form.skip) }
    : { kind: 'numbers', from: Number(form.from), to: Number(form.to), digits: Number(form.digits), step: 1, skip: skips(form.skip) };
}

/** The bin builder (A3): ranges level by level, what comes of them at once, what is there already, then the whole grid in one go. */
export function BinBuilder() {
  const go = useNavigate();
  const { me, site } = useMySite();
  const [zone, setZone] = useState<number | null>(null);
  const [levels, setLevels] = useState<readonly LevelForm[]>(FIRST);
  const [separators, setSeparators] = useState(['-', '-', '-', '-']);
  const [walk, setWalk] = useState<BinGrid['walk']>('serpentine');
  const [turned, setTurned] = useState<readonly string[]>([]);
  const [leaveClashes, setLeave] = useState(false);
  const into = zone ?? site?.zones[0]?.id ?? 0;
  const { grid, fault, bins, aisles } = useMemo(() => {
    const made: BinGrid = { levels: levels.map(levelOf), separators: separators.slice(0, levels.length - 1), walk, turned };
    const wrong = checkGrid(made);
    const built = wrong ? null : buildGrid(made);
    const [first] = made.levels;
    return { grid: made, fault: wrong, bins: built?.ok ? built.value : [], aisles: !wrong && first ? levelValues(first) : [] };
  }, [levels, separators, walk, turned]);
  const { data: clashes } = useRead(
    'places.clashes',
    { query: { grid: JSON.stringify(grid) } },
    { enabled: fault === null && me?.role === 'lead', keep: true },
  );
  const build = useSend('places.buildGrid', {
    quiet: true,
    onDone: (r) => {
      toast.success(`${r.made} bins are there${r.left > 0 ? `, ${r.left} were there before` : ''}.`);
      void go(`/places?zone=${into}&show=unlabelled`);
    },
  });
  const change = (i: number, part: Partial<LevelForm>): void => setLevels((was) => was.map((l, j) => (j === i ? { ...l, ...part } : l)));
  if (me && me.role !== 'lead')
    return (
      <PlacesFrame>
        <Empty title="Bins are built by the lead." />
      </PlacesFrame>
    );
  const clashing = clashes?.count ?? 0;
  const fresh = bins.length - (leaveClashes ? clashing : 0);
  const [first, last] = [bins[0], bins.at(-1)];
  return (
    <PlacesFrame>
      <div className="grid grid-cols-1 gap-8 lg:grid-cols-[3fr_2fr]">
        <form
          className="space-y-3"
          onSubmit={(e) => {
            e.preventDefault();
            build.mutate({ body: { zone: into, grid: grid as never, leaveClashes } });
          }}
        >
          <div className="flex items-end gap-4">
            <div className="w-64">
              <Select label="Zone" value={into} onChange={setZone} options={site?.zones.map((z) => [z.id, z.name] as const) ?? []} />
            </div>
            <Button
              disabled={levels.length >= 5}
              onClick={() => setLevels((was) => [...was, { kind: 'numbers', from: '1', to: '2', digits: '1', skip: '' }])}
            >
              Another level
            </Button>
            <Button disabled={levels.length <= 1} onClick={() => setLevels((was) => was.slice(0, -1))}>
              One level less
            </Button>
          </div>
          {levels.map((level, i) => (
            <fieldset key={i} className="grid grid-cols-[6rem_8rem_5rem_5rem_5rem_1fr_5rem] items-end gap-2 border-t border-line pt-2">
              <legend className="sr-only">{NAMES[i]}</legend>
              <span className="code pb-1.5 text-xl">{NAMES[i]}</span>
              <Select
                label="Made of"
                value={level.kind}
                onChange={(v) =>
                  change(
                    i,
                    v === 'letters' ? { kind: 'letters', from: 'A', to: 'C' } : { kind: 'numbers', from: '1', to: '10', digits: '2' },
                  )
                }
                options={[
                  ['letters', 'letters'],
                  ['numbers', 'numbers'],
                ]}
              />
              <Field label="From" value={level.from} onChange={(e) => change(i, { from: e.target.value })} />
              <Field label="To" value={level.to} onChange={(e) => change(i, { to: e.target.value })} />
              {level.kind === 'numbers' ? (
                <Field
                  label="Digits"
                  type="number"
                  min={1}
                  max={5}
                  value={level.digits}
                  onChange={(e) => change(i, { digits: e.target.value })}
                />
              ) : (
                <span />
              )}
              <Field label="Skip, such as 13" value={level.skip} onChange={(e) => change(i, { skip: e.target.value })} />
              {i < levels.length - 1 ? (
                <Select
                  label="Then"
                  value={separators[i] ?? '-'}
                  onChange={(v) => setSeparators((was) => was.map((s, j) => (j === i ? v : s)))}
                  options={[
                    ['-', '-'],
                    ['.', '.'],
                    ['/', '/'],
                    [' ', 'space'],
                  ]}
                />
              ) : (
                <span />
              )}
            </fieldset>
          ))}
          <fieldset className="border-t border-line pt-2">
            <legend className="sr-only">Walk</legend>
            <div className="w-96">
              <Select
                label="The walk through the aisles"
                value={walk}
                onChange={setWalk}
                options={[
                  ['serpentine', 'up one aisle, down the next'],
                  ['oneWay', 'every aisle from its first bay'],
                ]}
              />
            </div>
            {aisles.length > 1 && aisles.length <= 60 && (
              <p className="mt-2 flex flex-wrap items-center gap-1">
                <span className="mr-2 text-sm text-soft">Walked the other way:</span>
                {aisles.map((a) => (
                  <Button
                    key={a}
                    look={turned.includes(a) ? 'plain' : 'quiet'}
                    aria-pressed={turned.includes(a)}
                    onClick={() => setTurned((was) => (was.includes(a) ? was.filter((t) => t !== a) : [...was, a]))}
                  >
                    {a} {direction(walk, turned, aisles, a)}
                  </Button>
                ))}
              </p>
            )}
          </fieldset>
        </form>
        <section aria-label="Preview" className="space-y-3 border-l-4 border-ink pl-6">
          {fault ? (
            <p role="alert" className="text-lg font-semibold text-wrong">
              {placesSentence(fault)}
            </p>
          ) : (
            <>
              <p>
                <span className="code text-7xl leading-none" data-testid="grid-total">
                  {sayNumber(bins.length)}
                </span>{' '}
                <span className="text-xl">bins</span>
              </p>
              <p className="flex flex-wrap items-center gap-2">
                {first && <Plate address={first.address} size="door" />} <span className="text-soft">to</span>{' '}
                {last && <Plate address={last.address} size="door" />}
              </p>
              <div>
                <h2 className="font-bold">The walk begins</h2>
                <p className="flex flex-wrap gap-1 py-1">
                  {bins.slice(0, 14).map((b) => (
                    <Plate key={b.address} address={b.address} />
                  ))}{' '}
                  …
                </p>
              </div>
              {clashing > 0 && (
                <div className="border-2 border-wrong bg-wrong-pale p-3 text-wrong">
                  <p className="font-semibold">
                    {clashing} of these {clashing === 1 ? 'is' : 'are'} there already: {clashes?.first.slice(0, 6).join(', ')}
                    {clashing > 6 && ' …'}
                  </p>
                  <Tick
                    label="Leave those as they are and make the others"
                    checked={leaveClashes}
                    onChange={(e) => setLeave(e.target.checked)}
                  />
                </div>
              )}
              <Trouble error={build.error} />
              <Button
                look="next"
                disabled={build.isPending || fresh <= 0 || (clashing > 0 && !leaveClashes)}
                onClick={() => build.mutate({ body: { zone: into, grid: grid as never, leaveClashes } })}
              >
                {build.isPending ? 'Building …' : `Build ${sayNumber(fresh)} bins`}
              </Button>
            </>
          )}
        </section>
      </div>
    </PlacesFrame>
  );
}

function direction(walk: BinGrid['walk'], turned: readonly string[], aisles: readonly string[], aisle: string): string {
  const down = (walk === 'serpentine' && aisles.indexOf(aisle) % 2 === 1) !== turned.includes(aisle);
  return down ? '↓' : '↑';
}
