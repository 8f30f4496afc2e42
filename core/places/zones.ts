/** What a zone is for (A2). */
export const ZONE_PURPOSES = ['storage', 'pickFace', 'cold', 'cage', 'counter', 'dock', 'packing', 'quarantine', 'scrap'] as const;
export type ZonePurpose = (typeof ZONE_PURPOSES)[number];

/** The powers a new zone of this purpose starts with.
 *  Stock at the dock and at the bench may be promised (it is here and ours) but no round fetches from there: at the bench it is in
 *  somebody's hands already, and what was picked stays promised until it ships. */
export function zoneDefaults(purpose: ZonePurpose): { promisable: boolean; pickable: boolean; showsPrice: boolean } {
  switch (purpose) {
    case 'storage':
    case 'pickFace':
    case 'cold':
    case 'cage':
      return { promisable: true, pickable: true, showsPrice: false };
    case 'counter':
      return { promisable: true, pickable: true, showsPrice: true };
    case 'dock':
    case 'packing':
      return { promisable: true, pickable: false, showsPrice: false };
    case 'quarantine':
    case 'scrap':
      return { promisable: false, pickable: false, showsPrice: false };
  }
}
