import type { ZonePurpose } from '#core/places';

export type DemoBin = { address: string; use: string; oneItem?: boolean };
export type DemoZone = { code: string; name: string; purpose: ZonePurpose; bins: readonly DemoBin[] };
export type DemoSite = { code: string; name: string; address: string; zones: readonly DemoZone[] };

const two = (n: number): string => String(n).padStart(2, '0');
const range = (n: number): number[] => Array.from({ length: n }, (_, i) => i + 1);
const shelf = (address: string): DemoBin => ({ address, use: 'shelf' });

/** Aisle by aisle in a serpentine: odd aisles are walked up, even ones down. */
function racks(aisles: readonly string[], bays: number, levels: number): DemoBin[] {
  return aisles.flatMap((aisle, a) => {
    const order = a % 2 === 0 ? range(bays) : range(bays).reverse();
    return order.flatMap((bay) => range(levels).map((level) => shelf(`${aisle}-${two(bay)}-${level}`)));
  });
}

const zone = (code: string, name: string, purpose: ZonePurpose, bins: readonly DemoBin[]): DemoZone => ({ code, name, purpose, bins });
const ends = (prefix: string, benches: number, carts: number): DemoZone[] => [
  zone('DOCK', 'Dock', 'dock', [
    { address: `${prefix}ARRIVALS`, use: 'arrivals' },
    { address: `${prefix}UNPLACED`, use: 'unplaced' },
  ]),
  zone('PACK', 'Packing', 'packing', [
    ...range(benches).map((n) => ({ address: `${prefix}BENCH-${n}`, use: 'packing' })),
    ...range(carts).map((n) => ({ address: `${prefix}CART-${n}`, use: 'cart' })),
  ]),
  zone('QUAR', 'Quarantine', 'quarantine', [{ address: `${prefix}QUARANTINE`, use: 'quarantine' }]),
  zone('SCRAP', 'Scrap', 'scrap', [
    { address: `${prefix}SCRAP`, use: 'scrap' },
    { address: `${prefix}TRANSIT`, use: 'transit' },
  ]),
];

/** Three sites, zones of every purpose, about 600 bins, each zone in walking order. */
export const SITES: readonly DemoSite[] = [
  {
    code: 'MAIN',
    name: 'Quillfen Yard',
    address: '4 Comb Lane, Quillfen',
    zones: [
      zone('PICK', 'Pick face', 'pickFace', racks(['P', 'R', 'S'], 16, 3)),
      zone('STORE', 'Store', 'storage', racks(['A', 'B', 'C', 'D', 'E', 'F'], 10, 4)),
      zone(
        'COLD',
        'Cold room',
        'cold',
        range(12).map((n) => shelf(`X-${two(n)}`)),
      ),
      zone(
        'CAGE',
        'Locked cage',
        'cage',
        range(24).map((n) => shelf(`K-${two(n)}`)),
      ),
      ...ends('', 4, 6),
    ],
  },
  {
    code: 'BARN',
    name: 'Overflow barn',
    address: 'Skep Farm, Lower Quillfen',
    zones: [zone('BARN', 'Barn floor', 'storage', racks(['L', 'M', 'N'], 12, 2)), ...ends('N-', 1, 1)],
  },
  {
    code: 'SHOP',
    name: 'Shop counter',
    address: '1 Comb Lane, Quillfen',
    zones: [zone('COUNTER', 'Counter shelves', 'counter', racks(['T', 'U'], 8, 3)), ...ends('S-', 1, 1)],
  },
];
