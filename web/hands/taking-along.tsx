import { Button, Empty, Progress, sound, useScanner } from '#web/base';
import { pokeCourier, useFloor } from './use-floor.ts';

/** The first time at a site: what scans are looked up in is fetched, once. */
export function TakingAlong() {
  const { loading, fault } = useFloor();
  // A scan that nobody can take yet is heard to be none.
  useScanner(() => sound('wrong'));
  return (
    <div className="mx-auto max-w-xl space-y-4 p-6 pt-24 text-center">
      <h1 className="code text-3xl">Taking the goods and bins along</h1>
      {fault?.kind === 'away' ? (
        <>
          <Empty title="The server does not answer.">
            This device was never at this site. It needs the server once; afterwards it works without a connection.
          </Empty>
          <Button tall look="next" className="w-full" onClick={() => pokeCourier(0)}>
            Try again
          </Button>
        </>
      ) : (
        <Progress done={Math.round(loading * 100)} of={100} what="%" />
      )}
    </div>
  );
}
