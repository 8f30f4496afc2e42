import type { Tracking } from '#core/items';

export type CatalogueItem = {
  code: string;
  description: string;
  group: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  storage: 'dry' | 'cold' | 'locked';
  shelfLifeMonths: number | null;
  cost: number;
  price: number;
  grams: number;
  packs: readonly [string, number][];
  supplier: number;
};

export const COMPANY = 'Quillfen Hive & Orchard Supply';
export const SUPPLIERS = [
  ['SALTQUILL', 'Saltquill Joinery'],
  ['TALLOWBY', 'Tallowby Wax Works'],
  ['BRINDLOW', 'Brindlow & Daughters Glass'],
  ['HAVERSTOW', 'Haverstow Metalcraft'],
  ['PENNYFOLD', 'Pennyfold Feeds'],
  ['LORNWELL', 'Lornwell Veterinary Supply'],
  ['CASTERGATE', 'Castergate Textiles'],
  ['OXLEYFEN', 'Oxleyfen Orchard Tools'],
] as const;
export const CUSTOMERS = [
  'Abbot’s Rill Apiary',
  'Brackmere Honey',
  'Cinderhope Farm Shop',
  'Dunnockfield Bees',
  'Eldergarth Orchards',
  'Fallowquill Growers',
  'Greywick Hives',
  'Hollinspike Cider',
  'Ivelthorn Garden Centre',
  'Junipath Market',
  'Kestrelgarth Bees',
  'Larkspindle Nursery',
  'Millrush Honey Co-op',
  'Nettlequay Apiaries',
  'Orlefold Fruit',
  'Pikelund Beekeepers',
  'Quarrowby Press',
  'Rushenfold Allotments',
  'Sedgerick Honey',
  'Thistlewick Farm',
  'Underquill Orchard',
  'Vetchlow Stores',
  'Wendleby Lane Bees',
  'Yarrowfen Apiary',
] as const;

type Family = {
  prefix: string;
  group: string;
  name: string;
  kinds: readonly string[];
  sizes: readonly string[];
  tracking: Tracking;
  unit?: string;
  decimals?: number;
  storage?: CatalogueItem['storage'];
  life?: number;
  cost: [number, number];
  grams: [number, number];
  packs?: readonly [string, number][];
  supplier: number;
};

// Families of goods; every kind comes in every size.
export const FAMILIES: readonly Family[] = [
  {
    prefix: 'HV',
    group: 'Hives',
    name: 'hive',
    kinds: [
      'Brood box',
      'Honey super',
      'Hive floor',
      'Flat roof',
      'Gabled roof',
      'Crown board',
      'Hive stand',
      'Queen excluder',
      'Entrance block',
      'Travel screen',
    ],
    sizes: ['national', 'commercial', 'long', 'nucleus'],
    tracking: 'none',
    cost: [600, 4200],
    grams: [400, 6200],
    packs: [['case', 4]],
    supplier: 0,
  },
  {
    prefix: 'FR',
    group: 'Frames',
    name: 'frame',
    kinds: ['Brood frame', 'Super frame', 'Drone frame', 'Frame spacer', 'Top bar'],
    sizes: ['flat pack', 'assembled', 'wired', 'budget'],
    tracking: 'none',
    cost: [60, 320],
    grams: [60, 260],
    packs: [
      ['bundle', 10],
      ['case', 50],
    ],
    supplier: 0,
  },
  {
    prefix: 'WX',
    group: 'Wax',
    name: 'wax',
    kinds: ['Wired foundation', 'Unwired foundation', 'Thin super foundation', 'Drone foundation', 'Beeswax block', 'Candle wax'],
    sizes: ['brood', 'super', 'commercial', 'organic'],
    tracking: 'lot',
    cost: [700, 2400],
    grams: [400, 1000],
    packs: [['pack', 10]],
    supplier: 1,
  },
  {
    prefix: 'JR',
    group: 'Jars',
    name: 'jar',
    kinds: ['Round jar', 'Hexagonal jar', 'Squat jar', 'Tall jar', 'Skep jar'],
    sizes: ['30 ml', '106 ml', '190 ml', '227 ml', '340 ml', '454 ml', '720 ml'],
    tracking: 'none',
    cost: [18, 60],
    grams: [60, 320],
    packs: [
      ['tray', 24],
      ['pallet', 1440],
    ],
    supplier: 2,
  },
  {
    prefix: 'LD',
    group: 'Jars',
    name: 'lid',
    kinds: ['Gold lid', 'Black lid', 'White lid', 'Chequered lid'],
    sizes: ['43 mm', '48 mm', '58 mm', '63 mm', '70 mm', '82 mm'],
    tracking: 'none',
    cost: [6, 15],
    grams: [5, 14],
    packs: [
      ['sleeve', 100],
      ['case', 1000],
    ],
    supplier: 2,
  },
  {
    prefix: 'FD',
    group: 'Feed',
    name: 'feed',
    kinds: ['Spring fondant', 'Winter fondant', 'Autumn syrup', 'Pollen patty', 'Protein patty'],
    sizes: ['1 kg', '2.5 kg', '5 kg', '12.5 kg'],
    tracking: 'lot',
    cost: [180, 2100],
    grams: [1000, 12500],
    packs: [['case', 8]],
    supplier: 4,
  },
  {
    prefix: 'TR',
    group: 'Treatments',
    name: 'treatment',
    kinds: ['Thymol tray', 'Formic strip', 'Oxalic dribble', 'Amitraz strip', 'Nosema powder', 'Wound balm'],
    sizes: ['single', '10 dose', '25 dose'],
    tracking: 'lotExpiry',
    life: 24,
    cost: [450, 3900],
    grams: [40, 600],
    packs: [['case', 12]],
    supplier: 5,
  },
  {
    prefix: 'QG',
    group: 'Cold goods',
    name: 'cold',
    kinds: ['Queen-shipping gel', 'Royal jelly starter', 'Live yeast'],
    sizes: ['50 ml', '250 ml', '1 l'],
    tracking: 'lotExpiry',
    storage: 'cold',
    life: 6,
    cost: [300, 2600],
    grams: [60, 1100],
    packs: [['box', 6]],
    supplier: 5,
  },
  {
    prefix: 'TL',
    group: 'Tools',
    name: 'tool',
    kinds: [
      'Hive tool',
      'Smoker',
      'Bee brush',
      'Uncapping fork',
      'Uncapping knife',
      'Frame grip',
      'Queen marker',
      'Clip catcher',
      'Feeder',
      'Porter escape',
    ],
    sizes: ['standard', 'heavy', 'left-handed', 'pocket'],
    tracking: 'none',
    cost: [180, 2900],
    grams: [40, 900],
    packs: [['box', 12]],
    supplier: 3,
  },
  {
    prefix: 'OR',
    group: 'Orchard',
    name: 'orchard',
    kinds: [
      'Secateurs',
      'Pruning saw',
      'Grafting knife',
      'Grafting tape',
      'Tree tie',
      'Trunk guard',
      'Fruit picker',
      'Picking bag',
      'Apple crate',
      'Pheromone trap',
    ],
    sizes: ['small', 'medium', 'large', 'trade'],
    tracking: 'none',
    cost: [150, 3400],
    grams: [30, 2600],
    packs: [['box', 10]],
    supplier: 7,
  },
  {
    prefix: 'CL',
    group: 'Clothing',
    name: 'clothing',
    kinds: ['Bee suit', 'Smock', 'Gauntlets', 'Hooded jacket', 'Veil'],
    sizes: ['S', 'M', 'L', 'XL', 'child'],
    tracking: 'none',
    cost: [900, 6900],
    grams: [150, 1400],
    packs: [['box', 6]],
    supplier: 6,
  },
  {
    prefix: 'MX',
    group: 'Machines',
    name: 'machine',
    kinds: ['Honey extractor', 'Settling tank scale', 'Bench scale', 'Wax melter', 'Fruit press', 'Creamer'],
    sizes: ['hand', 'electric', 'trade'],
    tracking: 'serial',
    storage: 'locked',
    cost: [6900, 49000],
    grams: [4000, 24000],
    supplier: 3,
  },
  {
    prefix: 'SM',
    group: 'Machines',
    name: 'meter',
    kinds: ['Refractometer', 'Moisture meter', 'Hive scale sensor'],
    sizes: ['pocket', 'digital'],
    tracking: 'serialOut',
    storage: 'locked',
    cost: [2400, 9900],
    grams: [200, 700],
    supplier: 3,
  },
  {
    prefix: 'MT',
    group: 'By the metre',
    name: 'metre',
    kinds: ['Varroa mesh', 'Bird netting', 'Hive strap', 'Orchard rope', 'Shade cloth'],
    sizes: ['1 mm', '3 mm', '8 mm', '20 mm'],
    tracking: 'none',
    unit: 'metre',
    decimals: 2,
    cost: [40, 480],
    grams: [20, 300],
    packs: [['roll', 25]],
    supplier: 6,
  },
  {
    prefix: 'KT',
    group: 'Kits',
    name: 'kit',
    kinds: ['Starter hive', 'Candle kit', 'Extraction kit', 'Orchard care kit'],
    sizes: ['basic', 'full', 'gift'],
    tracking: 'none',
    cost: [1900, 16000],
    grams: [900, 14000],
    supplier: 0,
  },
  {
    prefix: 'PK',
    group: 'Packing',
    name: 'packing',
    kinds: ['Honey label roll', 'Tamper seal roll', 'Jar carton', 'Gift box', 'Comb container'],
    sizes: ['plain', 'printed', 'kraft', 'clear'],
    tracking: 'none',
    cost: [40, 900],
    grams: [20, 500],
    packs: [['case', 20]],
    supplier: 2,
  },
];

/** Every item of the made-up company, in a fixed order. `spread` gives each its place between cheapest and dearest. */
export function catalogue(spread: () => number): CatalogueItem[] {
  return FAMILIES.flatMap((family) =>
    family.kinds.flatMap((kind, k) =>
      family.sizes.map((size, s): CatalogueItem => {
        const between = ([low, high]: readonly [number, number]): number => Math.round(low + (high - low) * spread());
        const cost = between(family.cost);
        const unit = family.unit ?? 'each';
        return {
          code: `${family.prefix}-${String((k + 1) * 10 + s)}`,
          description: `${kind}, ${size}`,
          group: family.group,
          unit,
          decimals: family.decimals ?? 0,
          tracking: family.tracking,
          storage: family.storage ?? 'dry',
          shelfLifeMonths: family.life ?? null,
          cost: cost / 100,
          price: Math.round(cost * 1.65) / 100,
          grams: between(family.grams),
          packs: [[unit, 1], ...(family.packs ?? [])],
          supplier: family.supplier,
        };
      }),
    ),
  );
}
