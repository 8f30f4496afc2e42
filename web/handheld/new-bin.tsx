import { useState, type ReactNode } from 'react';
import { isAddress } from '#core/places';
import { Button, Plate, send, useMe, useRead } from '#web/base';
import { TallSelect } from './fields.tsx';
import { theFloor } from '#web/hands';

/** A bin made on the fly (A8): where a bin was wanted and nobody knows the address that was scanned, those who may make bins make it there
 *  and go on with it. */
export function useNewBin(): {
  /** Offers to make the bin; nothing where the person may not, or the text is no address. */
  offer: (code: string) => void;
  /** Drops the offer: something else was scanned. */
  drop: () => void;
  panel: (goOn: (address: string) => void) => ReactNode;
} {
  const me = useMe();
  const { data: sites } = useRead('places.sites', {});
  const [wanted, setWanted] = useState<string | null>(null);
  const zones = sites?.sites.find((s) => s.id === me?.me?.site.id)?.zones ?? [];
  return {
    drop: () => setWanted(null),
    offer: (code) => {
      if (me?.me?.role === 'lead' && isAddress(code.trim())) setWanted(code.trim().toUpperCase());
    },
    panel: (goOn) =>
      wanted && (
        <NewBin
          key={wanted}
          address={wanted}
          zones={zones}
          onLeave={() => setWanted(null)}
          onMade={() => {
            setWanted(null);
            goOn(wanted);
          }}
        />
      ),
  };
}

function NewBin({
  address,
  zones,
  onMade,
  onLeave,
}: {
  address: string;
  zones: readonly { id: number; code: string; name: string }[];
  onMade: () => void;
  onLeave: () => void;
}) {
  // Its neighbours on the rack know in which zone it stands.
  const { data: beside } = useRead(
    'places.bins',
    { query: { q: address.replace(/[^-./ ]+$/, ''), limit: 1 } },
    { enabled: /[-./ ]/.test(address) },
  );
  const proposed = zones.find((z) => z.code === beside?.bins[0]?.zone)?.id ?? zones[0]?.id ?? 0;
  const [chosen, setZone] = useState<number | null>(null);
  const zone = chosen ?? proposed;
  const [problem, setProblem] = useState<string | null>(null);
  return (
    <form
      className="space-y-2 rounded border-4 border-ink bg-sheet p-3"
      onSubmit={(e) => {
        e.preventDefault();
        send('places.makeBin', { body: { zone, address } })
          .then(() => theFloor().take())
          .then(onMade, (error: Error) => setProblem(error.message));
      }}
    >
      <p className="text-center">
        <Plate address={address} size="door" />
      </p>
      <TallSelect label="Make this bin, in the zone" value={zone} onChange={setZone} options={zones.map((z) => [z.id, z.name])} />
      {problem && <p className="font-semibold text-wrong">{problem}</p>}
      <div className="grid grid-cols-2 gap-2">
        <Button tall onClick={onLeave}>
          Another bin
        </Button>
        <Button tall look="next" type="submit">
          Make it
        </Button>
      </div>
    </form>
  );
}
