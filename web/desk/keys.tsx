import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { Button } from '#web/base';

/** The keys of the desk and what each does. */
export default function Keys({ keys, onClose }: { keys: readonly (readonly [key: string, says: string])[]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 grid place-items-center bg-ink/50 p-4">
        <DialogPanel className="w-96 rounded border-4 border-ink bg-sheet p-4">
          <DialogTitle className="mb-2 text-lg font-bold">Keys</DialogTitle>
          <dl className="grid grid-cols-[3rem_1fr] gap-y-1">
            {keys.map(([key, says]) => (
              <div key={key} className="contents">
                <dt>
                  <kbd className="code rounded-sm border border-ink px-2">{key}</kbd>
                </dt>
                <dd>{says}</dd>
              </div>
            ))}
          </dl>
          <Button className="mt-3" onClick={onClose}>
            Close
          </Button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
