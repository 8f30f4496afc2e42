import { DateTime } from 'luxon';

/** The moment at which the clock of a place shows something, as the API tells it.
 *  Shape:  `shown` such as `2026-11-24T14:17`, `zone` an IANA name; of a time that the clocks skip, the moment after; of one that comes
 *          twice, either. Empty for what is no time. */
export const momentAt = (shown: string, zone: string): string => DateTime.fromISO(shown, { zone }).toUTC().toISO() ?? '';
