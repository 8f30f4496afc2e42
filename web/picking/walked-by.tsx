import { Button, useMe, useRead } from '#web/base';
import { Select } from '#web/forms';

/** Who walks a round: given to somebody else by a choice; thrown away by a lead. */
export function WalkedBy({
  person,
  onGive,
  onThrowAway,
  busy,
}: {
  person: number | null;
  onGive: (person: number | null) => void;
  onThrowAway: () => void;
  busy: boolean;
}) {
  const { me } = useMe();
  const { data } = useRead('people.people', {});
  const here = data?.people.filter((p) => p.role !== 'office' && p.sites.includes(me?.site.id ?? 0)) ?? [];
  return (
    <div className="mb-2 flex items-end gap-3">
      <Select
        label="Walked by"
        className="max-w-72"
        value={person ?? ''}
        onChange={(v) => onGive(v === '' ? null : v)}
        options={[['', 'nobody yet'], ...here.map((p) => [p.id, p.name] as const)]}
      />
      {me?.role === 'lead' && (
        <Button look="wrong" disabled={busy} onClick={onThrowAway}>
          Throw the round away
        </Button>
      )}
    </div>
  );
}
