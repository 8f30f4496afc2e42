import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { Button } from './parts.tsx';

/** Asks whether to leave what is not saved; staying is the louder answer. */
export default function AskUnsaved({ what, onStay, onLeave }: { what: string; onStay: () => void; onLeave: () => void }) {
  return (
    <Dialog open onClose={onStay} className="relative z-50">
      <div className="fixed inset-0 grid place-items-center bg-ink/50 p-4">
        <DialogPanel className="w-[28rem] rounded border-4 border-ink bg-sheet p-4">
          <DialogTitle className="mb-2 text-lg font-bold">{what}: not saved yet.</DialogTitle>
          <p className="mb-4">If you go on, what you changed is lost.</p>
          <div className="flex justify-end gap-2">
            <Button look="wrong" onClick={onLeave}>
              Go on without saving
            </Button>
            <Button look="next" autoFocus onClick={onStay}>
              Stay here
            </Button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
