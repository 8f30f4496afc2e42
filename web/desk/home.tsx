import { Trouble, useRead } from '#web/base';
import { NextActs } from './home-now.tsx';
import { Floor, Today } from './home-floor.tsx';
import { Wrong } from './home-wrong.tsx';

/** Home answers “what now?” (L1): the next act first and largest, then what is late, then what is wrong, each mended where it stands;
 *  beside it who is on what, and the day so far. What waits is on the row above. */
export function Home() {
  const { data, error } = useRead('desk.home', {});
  if (!data) return <Trouble error={error} />;
  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-12">
      {data.lowDisk !== null && (
        <p role="alert" className="border-2 border-wrong p-3 text-lg font-bold text-wrong lg:col-span-12">
          The disk of the database has {data.lowDisk} MB left. Make room: once it is full nothing can be booked.
        </p>
      )}
      <div className="lg:col-span-8">
        <NextActs home={data} />
        <Wrong home={data} />
      </div>
      <div className="space-y-5 lg:col-span-4">
        <Floor people={data.people} />
        <Today />
      </div>
    </div>
  );
}
