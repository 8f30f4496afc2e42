import { Button, Empty } from '#web/base';
import { pokeCourier, useFloor } from '#web/hands';
import { Screen } from './screen.tsx';

/** A job that is not on the device: ended by somebody else, or not taken along yet. */
export function Missing({ title, what }: { title: string; what: string }) {
  const { ready, fault } = useFloor();
  return (
    <Screen title={title} answer={null} onScan={() => undefined} hint="Go back to My work">
      {ready ? (
        <>
          <Empty title={`This ${what} is not on the device.`}>
            {fault?.kind === 'away'
              ? 'It was ended, or begun after this device last had a connection.'
              : 'It was ended, or it belongs to another site.'}
          </Empty>
          <Button tall className="w-full" onClick={() => pokeCourier(0)}>
            Look again
          </Button>
        </>
      ) : (
        <Empty title="One moment." />
      )}
    </Screen>
  );
}
