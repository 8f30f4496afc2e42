import { useState } from 'react';
import { toast } from 'sonner';
import { ZONE_PURPOSES } from '#core/places';
import { DEFAULT_USES, type Site, type Zone } from '#contract/places';
import { Button, Field, read, Tick, Trouble, Unsaved, useRead, useSend } from '#web/base';
import { Select, useCommandForm, useSharedForm } from '#web/forms';
import { PlacesFrame, useMySite } from './frame.tsx';

const PURPOSES: Readonly<Record<(typeof ZONE_PURPOSES)[number], string>> = {
  storage: 'storage',
  pickFace: 'pick face',
  cold: 'cold',
  cage: 'locked cage',
  counter: 'counter',
  dock: 'dock',
  packing: 'packing',
  quarantine: 'quarantine',
  scrap: 'scrap',
};

/** The site where one works: its facts, its default bins, its zones and what their stock may be used for; and a new site. */
export function SitePage() {
  const { me, site } = useMySite();
  const lead = me?.role === 'lead';
  return (
    <PlacesFrame>
      {site && (
        <div className="grid grid-cols-1 gap-10 lg:grid-cols-[3fr_2fr]">
          <section>
            <h2 className="border-b-2 border-ink font-bold">Zones</h2>
            <ul>
              {site.zones.map((z) => (
                <ZoneRow key={`${z.id}${z.promisable}${z.pickable}${z.showsPrice}`} zone={z} lead={lead} />
              ))}
            </ul>
            {lead && <NewZone />}
          </section>
          <section className="space-y-8">
            <SiteForm key={site.id} site={site} lead={lead} />
            {lead && <NewSite />}
          </section>
        </div>
      )}
    </PlacesFrame>
  );
}

function ZoneRow({ zone, lead }: { zone: Zone; lead: boolean }) {
  const was = { promisable: zone.promisable, pickable: zone.pickable, showsPrice: zone.showsPrice };
  const [powers, setPowers] = useState(was);
  const changed = JSON.stringify(powers) !== JSON.stringify(was);
  const yes = (b: boolean): 'yes' | 'no' => (b ? 'yes' : 'no');
  const { data: effect } = useRead(
    'stock.zoneEffect',
    {
      params: { id: zone.id },
      query: { promisable: yes(powers.promisable), pickable: yes(powers.pickable), showsPrice: yes(powers.showsPrice) } as never,
    },
    { enabled: changed },
  );
  const save = useSend('stock.zonePowers', { onDone: () => toast.success(`${zone.name} is changed.`) });
  const tick = (name: keyof typeof was, label: string) => (
    <Tick label={label} disabled={!lead} checked={powers[name]} onChange={(e) => setPowers((p) => ({ ...p, [name]: e.target.checked }))} />
  );
  return (
    <li className="border-b border-line py-2">
      <div className="flex flex-wrap items-center gap-x-5">
        <span className="w-44">
          <strong>{zone.name}</strong> <span className="code text-soft">{zone.code}</span> {lead && <RenameZone zone={zone} />}
          <span className="block text-sm text-soft">
            {PURPOSES[zone.purpose]}, {zone.bins} bins
          </span>
        </span>
        {tick('promisable', 'may be promised')}
        {tick('pickable', 'may be picked')}
        {tick('showsPrice', 'labels show price')}
      </div>
      {changed && effect && (
        <div className="mt-2 space-y-2 border-2 border-ink p-3" role="status">
          {effect.becomes === 'held' && (
            <p>
              <strong>
                Stock of {effect.itemsTotal} {effect.itemsTotal === 1 ? 'item' : 'items'} stops being free
              </strong>
              {effect.items.length > 0 && (
                <>
                  :{' '}
                  {effect.items
                    .slice(0, 6)
                    .map((i) => `${i.qty} ${i.unit} of ${i.code}`)
                    .join(', ')}
                  {effect.itemsTotal > 6 && ` and ${effect.itemsTotal - 6} more`}
                </>
              )}
              .
            </p>
          )}
          {effect.becomes === 'free' && (
            <p>
              <strong>
                Stock of {effect.itemsTotal} {effect.itemsTotal === 1 ? 'item' : 'items'} becomes free
              </strong>
              , unless it is held or expired.
            </p>
          )}
          {effect.ordersCut.length > 0 && (
            <p className="font-semibold text-wrong">
              {effect.ordersCut.length} {effect.ordersCut.length === 1 ? 'order loses' : 'orders lose'} a promise or part of it:{' '}
              {effect.ordersCut.slice(0, 8).join(', ')}
              {effect.ordersCut.length > 8 && ' …'}
            </p>
          )}
          {effect.stopsOpen > 0 && (
            <p className="font-semibold text-wrong">{effect.stopsOpen} picks of open rounds stand here; they stay on their rounds.</p>
          )}
          {effect.labels > 0 && (
            <p>
              {effect.labels} shelf labels {powers.showsPrice ? 'begin to show a price' : 'no longer show a price'}; they are under wrong
              labels.
            </p>
          )}
          {effect.becomes === 'asItIs' && effect.stopsOpen === 0 && effect.labels === 0 && <p>No stock, order or label is touched.</p>}
          <p className="flex gap-2">
            <Button look="next" onClick={() => save.mutate({ params: { id: zone.id }, body: powers })}>
              Change {zone.name}
            </Button>
            <Button onClick={() => setPowers(was)}>Cancel</Button>
          </p>
        </div>
      )}
    </li>
  );
}

function RenameZone({ zone }: { zone: Zone }) {
  const [name, setName] = useState<string | null>(null);
  const rename = useSend('places.renameZone', { onDone: () => setName(null) });
  if (name === null)
    return (
      <button type="button" className="text-sm text-soft underline" onClick={() => setName(zone.name)}>
        rename
      </button>
    );
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        rename.mutate({ params: { id: zone.id }, body: { name } });
      }}
    >
      <input
        aria-label={`New name of ${zone.name}`}
        autoFocus
        className="w-40 rounded border-2 border-ink/60 bg-sheet px-1"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onBlur={() => setName(null)}
      />
    </form>
  );
}

function NewZone() {
  const form = useCommandForm('places.makeZone', {
    first: { code: '', name: '', purpose: 'storage' as Zone['purpose'] },
    input: (body) => ({ body }),
    at: { 'places.zoneTaken': 'code' },
    onDone: () => form.reset(),
  });
  return (
    <form className="mt-4 flex items-end gap-2" noValidate onSubmit={form.submit}>
      <div className="w-24">
        <Field label="Code" {...form.field('code')} />
      </div>
      <div className="flex-1">
        <Field label="Name of a new zone" {...form.field('name')} />
      </div>
      <Select label="Purpose" {...form.chosen('purpose')} options={ZONE_PURPOSES.map((p) => [p, PURPOSES[p]])} />
      <Button type="submit" disabled={form.isSending}>
        Make the zone
      </Button>
      <Trouble error={form.trouble} />
    </form>
  );
}

const USES: Readonly<Record<(typeof DEFAULT_USES)[number], string>> = {
  arrivals: 'Arrivals',
  packing: 'Packing',
  quarantine: 'Quarantine',
  scrap: 'Scrap',
  transit: 'In transit',
};

type SiteFields = { name: string; timeZone: string; address: string; cartSlots: string } & Record<(typeof DEFAULT_USES)[number], string>;
const SITE_LABELS: Readonly<Record<keyof SiteFields, string>> = {
  name: 'Name',
  timeZone: 'Time zone',
  address: 'Address',
  cartSlots: 'Slots of a cart',
  ...USES,
};
const siteFields = (site: Site): SiteFields => ({
  name: site.name,
  timeZone: site.timeZone,
  address: site.address,
  cartSlots: String(site.cartSlots),
  ...(Object.fromEntries(DEFAULT_USES.map((u) => [u, site.defaults[u] ?? ''])) as Record<(typeof DEFAULT_USES)[number], string>),
});

function SiteForm({ site, lead }: { site: Site; lead: boolean }) {
  const [before, setBefore] = useState(site);
  const defaultsOf = (values: SiteFields) =>
    Object.fromEntries(DEFAULT_USES.filter((u) => values[u] && values[u] !== before.defaults[u]).map((u) => [u, values[u]]));
  const form = useSharedForm<'places.changeSite', SiteFields>('places.changeSite', {
    first: siteFields(site),
    version: site.version,
    labels: SITE_LABELS,
    input: (values, version) => {
      const { name, timeZone, address, cartSlots } = values;
      return {
        params: { id: site.id },
        body: { name, timeZone, address, cartSlots: Number(cartSlots), defaults: defaultsOf(values) as never, version },
      };
    },
    at: {
      'places.timeZone': 'timeZone',
      'places.siteTaken': 'name',
      ...Object.fromEntries(DEFAULT_USES.map((u) => [`defaults.${u}`, u] as const)),
    },
    meanwhile: 'places.changedMeanwhile',
    readAgain: async () => {
      const theirs = (await read('places.sites', {})).sites.find((s) => s.id === site.id) ?? site;
      setBefore(theirs);
      return { values: siteFields(theirs), version: theirs.version };
    },
    onDone: (_, values) => {
      setBefore({ ...before, defaults: { ...before.defaults, ...defaultsOf(values) } });
      toast.success('The site is changed.');
    },
  });
  const field = (name: keyof SiteFields, code = false) => (
    <Field key={name} label={SITE_LABELS[name]} code={code} {...form.field(name)} {...(code ? { className: 'code' } : {})} />
  );
  return (
    <form className="space-y-2" noValidate onSubmit={form.submit}>
      <Unsaved when={form.isChanged} what="The site" />
      <h2 className="border-b-2 border-ink font-bold">This site</h2>
      <fieldset disabled={!lead} className="space-y-2">
        {field('name')}
        {field('address')}
        {field('timeZone')}
        {field('cartSlots')}
        <p className="pt-2 text-sm text-soft">Default bins: where goods go when nobody says otherwise.</p>
        <div className="grid grid-cols-2 gap-2">{DEFAULT_USES.map((u) => field(u, true))}</div>
      </fieldset>
      {form.panel ?? <Trouble error={form.trouble} />}
      {lead && (
        <Button type="submit" look={form.isChanged ? 'next' : 'plain'} disabled={!form.isChanged || form.isSending || form.isUndecided}>
          Change the site
        </Button>
      )}
    </form>
  );
}

function NewSite() {
  const form = useCommandForm('places.makeSite', {
    first: { code: '', name: '', timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone, address: '' },
    input: (body) => ({ body }),
    at: { 'places.siteTaken': 'code', 'places.timeZone': 'timeZone' },
    onDone: (_, { name }) => {
      toast.success(`${name} is there, with its default bins. Choose it at the top to work there.`);
      form.reset();
    },
  });
  return (
    <form className="space-y-2 border-2 border-line p-3" noValidate onSubmit={form.submit}>
      <h2 className="font-bold">A new site: a store, a shop counter, a van</h2>
      <div className="grid grid-cols-[6rem_1fr] gap-2">
        <Field label="Code" {...form.field('code')} />
        <Field label="Name" {...form.field('name')} />
      </div>
      <Field label="Address" {...form.field('address')} />
      <Field label="Time zone" {...form.field('timeZone')} />
      <Trouble error={form.trouble} />
      <Button type="submit" disabled={form.isSending}>
        Make the site
      </Button>
    </form>
  );
}
