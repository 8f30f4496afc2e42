import { Link } from 'react-router';

const SIDE = { row: 'size-8', record: 'size-24', bench: 'size-16', stop: 'size-40' } as const;

/** What an item looks like: small beside its name in a row, larger on its record, large where somebody must find it on a shelf. Its name
 *  stands beside it, so it says nothing to those who do not see it. */
export function ItemPicture({ item, size = 'row' }: { item: number; size?: keyof typeof SIDE }) {
  return (
    <img
      src={`/api/items/${item}/picture`}
      alt=""
      loading="lazy"
      decoding="async"
      className={`${SIDE[size]} shrink-0 rounded-sm border border-line bg-sheet object-contain`}
    />
  );
}

/** An item in a row: what it looks like, its code and what it is; opens its record. A long name is cut, or goes on in a second line where
 *  the row may be as high as that. */
export function ItemName({ item, code, description, wraps = false }: { item: number; code: string; description: string; wraps?: boolean }) {
  return (
    <Link to={`/items/${item}`} className="inline-flex max-w-full items-center gap-2 align-middle hover:underline">
      <ItemPicture item={item} />
      <span className={wraps ? 'line-clamp-2 min-w-0' : 'min-w-0 truncate'}>
        <span className="code text-lg whitespace-nowrap">{code}</span> {description}
      </span>
    </Link>
  );
}
