import type { Station } from '#contract/desk';

type Place = { readonly pathname: string; readonly search: string };

/** At which station of the row somebody stands; null where they are beside it. One delivery or order that is opened says nothing of where
 *  it is in the house: only its list is lit, where there is one list for it. */
export function stationAt({ pathname, search }: Place): Station['station'] | null {
  const [, room = '', opened] = pathname.split('/');
  const asked = new URLSearchParams(search);
  switch (room) {
    case 'expected':
    case 'purchasing':
      return 'expected';
    case 'deliveries':
      if (opened !== undefined) return null;
      return asked.get('show') === 'review' ? 'review' : 'dock';
    case 'put-away':
    case 'refill':
    case 'carries':
      return 'putAway';
    case 'places':
    case 'bins':
      return 'shelf';
    case 'orders':
      if (opened !== undefined) return null;
      return asked.get('state') === 'shipped' ? 'gone' : 'orders';
    case 'rounds':
      return 'rounds';
    case 'bench':
      return 'bench';
    case 'counts':
      return 'counts';
    default:
      return null;
  }
}
