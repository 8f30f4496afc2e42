import { moneyText } from '#core/base';
import { withCheckDigit } from '#core/items';
import { layOutArranged } from './arranged.ts';
import { ownKey, placedParts, type LabelContents, type LabelKind, type OwnPart } from './contents.ts';
import { RESOLUTIONS, type Dpi } from './dots.ts';
import { composeLabel, type LabelRequest } from './label.ts';
import { layOut } from './layout.ts';
import type { LabelTools } from './page.ts';
import type { Paper } from './papers.ts';

/** A made-up label: an everyday one, or one with more on it than most have. */
export type Sample = { readonly says: string; readonly request: LabelRequest };

const GTIN = withCheckDigit('400012300001');
const LONG = 'Uncapping fork with a long handle of oiled beech, bent tines, for right and left hands, and a hook to hang it up by, 24 pcs';
const item = {
  kind: 'item',
  code: 'HV-10',
  barcode: GTIN,
  description: 'Brood box, cedar, for eleven frames',
} as const;
const bare = { lot: null, expires: null, serial: null };
const address = 'Mill Lane 4\nBackyard, second door\nQuarrington QX4 7ZZ';

type House = { readonly company: string; readonly price: string; readonly large: string };
const SAMPLES: Readonly<Record<LabelKind, (of: House) => readonly [Sample, ...Sample[]]>> = {
  item: ({ company, price }) => [
    { says: 'With a lot', request: { ...item, ...bare, company, price, lot: 'L-2207', expires: '2028-05-31' } },
    { says: 'With a serial', request: { ...item, ...bare, company, price, serial: 'S-40017' } },
    { says: 'A lot of twenty letters', request: { ...item, ...bare, company, price, lot: 'LOT-2207/B-000000041', expires: '2028-05-31' } },
    {
      says: 'A long code and a long name',
      request: { ...item, ...bare, company, price, code: 'HV-10/CEDAR-LARGE-2', barcode: null, description: LONG },
    },
  ],
  bin: () => [
    { says: 'As usual', request: { kind: 'bin', address: 'A-12-3', zone: 'Shelves', site: 'Lower Yard', arrow: 'up' } },
    { says: 'A long address', request: { kind: 'bin', address: 'RACK-A-12-3B', zone: 'Shelves', site: 'Lower Yard', arrow: null } },
  ],
  shelf: ({ price, large }) => [
    {
      says: 'As usual',
      request: { kind: 'shelf', code: 'HV-10', barcode: GTIN, description: item.description, price, bin: 'A-12-3' },
    },
    {
      says: 'A large price and a long name',
      request: { kind: 'shelf', code: 'HV-10', barcode: null, description: LONG, price: large, bin: 'A-12-3' },
    },
  ],
  order: () => [
    { says: 'As usual', request: { kind: 'order', number: 'CO-5012', customer: 'Marrow & Finch' } },
    {
      says: 'A long name',
      request: { kind: 'order', number: 'CO-5012', customer: 'The Society of Keepers on the Upper Marrow and its Mills' },
    },
  ],
  unit: ({ company }) => [
    {
      says: 'As usual',
      request: { kind: 'unit', sscc: withCheckDigit('04000123000000000'), company, contents: ['48 pcs HV-10', '12 pcs SC-7, lot L-2207'] },
    },
    {
      says: 'Eight things in it',
      request: {
        kind: 'unit',
        sscc: withCheckDigit('04000123000000000'),
        company,
        contents: Array.from({ length: 8 }, (_, n) => `${n + 1}20 pcs HV-${n}0, lot LOT-2207/B-0000000${n}`),
      },
    },
  ],
  tote: () => [{ says: 'As usual', request: { kind: 'tote', cart: 'CART-1', slot: 12, site: 'Lower Yard' } }],
  parcel: ({ company }) => [
    { says: 'One of three', request: { kind: 'parcel', order: 'CO-5012', customer: 'Marrow & Finch', address, company, parcel: 2, of: 3 } },
    {
      says: 'A long address',
      request: {
        kind: 'parcel',
        order: 'CO-5012',
        customer: 'The Society of Keepers on the Upper Marrow and its Mills',
        address: `${address}\nUpper Marrow, the county of Long Names\nFar away`,
        company,
        parcel: 12,
        of: 30,
      },
    },
  ],
  badge: ({ company }) => [
    { says: 'As usual', request: { kind: 'badge', badge: 'B-1007', name: 'Ada Wren', role: 'hand', company } },
    { says: 'A long name', request: { kind: 'badge', badge: 'B-1007', name: 'Ada Philippa Wren-Featherstone', role: 'office', company } },
  ],
};

const MORE: Readonly<Record<string, string>> = {
  supplier: 'Larkmere Joinery',
  received: '1 May 2027',
  made: '12 April 2027',
  printed: '2 May 2027',
};

/** In whose words and money made-up labels are. */
export type SampleHouse = { readonly company: string; readonly currency: string; readonly own?: readonly OwnPart[] };

/** Made-up labels of a kind, with everything on them that its contents want, in the words and the money of a house. */
export function sampleLabels(kind: LabelKind, { shown }: LabelContents, { company, currency, own = [] }: SampleHouse): readonly Sample[] {
  const called = (key: string): string => own.find((o) => ownKey(o.id) === key)?.label ?? '';
  const more = Object.fromEntries(shown.map((key) => [key, key === 'company' ? company : (MORE[key] ?? `${called(key)} as keyed`)]));
  const money = { price: moneyText('12.40', currency), large: moneyText('12400', currency) };
  return SAMPLES[kind]({ company, ...money }).map(({ says, request }) => ({ says, request: { ...request, more } }));
}

/** What becomes of a made-up label at some heads: nothing is missed, or these have no room where they were put, or it can be no label. */
export type SampleCheck = {
  readonly says: string;
  readonly misses: readonly string[];
  readonly dpi: readonly Dpi[];
  readonly isLabel: boolean;
};

/** Lays made-up labels of a kind out for every head (D2): whoever arranges labels sees at once what no longer fits.
 *  Shape:  one layout at a time, so that a server can answer others between two. A sample that fits at every head is one check; of others
 *          there is one for each thing that is missed, with the heads that miss it. */
export function* checkSamples(
  kind: LabelKind,
  contents: LabelContents,
  paper: Paper,
  house: SampleHouse,
  tools: LabelTools,
): Generator<undefined, SampleCheck[]> {
  const names = new Map(placedParts(kind, contents, house.own).map((p) => [p.key, p.says]));
  const all: SampleCheck[] = [];
  for (const { says, request } of sampleLabels(kind, contents, house)) {
    const face = composeLabel({ ...request, paper }, contents);
    const checks = new Map<string, SampleCheck>();
    for (const dpi of RESOLUTIONS) {
      const noRoom = face.arranged ? layOutArranged(face, face.arranged, dpi, tools).noRoom : [];
      const misses = noRoom.map((key) => names.get(key) ?? key);
      const isLabel = (face.arranged !== undefined && misses.length === 0) || !('code' in layOut(face, dpi, tools));
      const key = JSON.stringify([misses, isLabel]);
      checks.set(key, { says, misses, isLabel, dpi: [...(checks.get(key)?.dpi ?? []), dpi] });
      yield;
    }
    all.push(...checks.values());
  }
  return all;
}
