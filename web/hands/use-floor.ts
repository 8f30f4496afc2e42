import { useEffect, useSyncExternalStore } from 'react';
import type { Me } from '#contract/people';
import { Courier } from './courier.ts';
import { Floor, type FloorState } from './floor.ts';
import { openKeep } from './keep.ts';
import { httpLine } from './line.ts';

const CHANNEL = 'dockrow-floor';
const LOCK = 'dockrow-courier';

let floor: Floor | null = null;
let courier: Courier | null = null;

/** Opens the floor of this page, once; what was kept is read then. */
export async function openFloor(): Promise<Floor> {
  if (floor) return floor;
  const keep = await openKeep();
  floor ??= new Floor(keep, httpLine());
  await floor.open();
  if (keep.lasting) void navigator.storage?.persist?.().catch(() => undefined);
  return floor;
}

/** The floor of this page, after `openFloor`. */
export function theFloor(): Floor {
  if (!floor) throw new Error('The floor was not opened.');
  return floor;
}

/** Says that there is something to tell or to take along. */
export function pokeCourier(waitMs?: number): void {
  courier?.poke(waitMs);
}

/** Sends the courier for as long as somebody works here: one for each device, however many tabs are open; the others only take along. */
export function useCourier(me: Me): void {
  useEffect(() => {
    const here = theFloor();
    const channel = new BroadcastChannel(CHANNEL);
    let ended = false;
    const say = (): void => {
      // A run that was under way when this page went on to another may come to its end after that.
      if (!ended) channel.postMessage('changed');
    };
    channel.onmessage = () => void here.reread().then(() => courier?.heard());
    let release: () => void = () => undefined;
    const begin = (alone: boolean): void => {
      courier?.stop();
      courier = new Courier(here, { alone, onRun: say });
      courier.poke(0);
    };
    void here.signedIn(me).then(() =>
      here.workAt(me.site.id).then(() => {
        if (ended) return;
        if (!('locks' in navigator)) return begin(true);
        const hold = (): Promise<void> | undefined => {
          if (ended) return undefined;
          begin(true);
          return new Promise<void>((resolve) => {
            release = resolve;
          });
        };
        // Alone from the first fetch on, where no other tab is: what is taken along before that would not be kept.
        void navigator.locks.request(LOCK, { ifAvailable: true }, (lock) => {
          if (lock) return hold();
          if (!ended) begin(false);
          void navigator.locks.request(LOCK, hold);
          return undefined;
        });
      }),
    );
    const online = (): void => courier?.poke(0);
    const seen = (): void => {
      if (document.visibilityState === 'visible') courier?.poke(0);
    };
    const changed = (): void => courier?.heardOfOthers();
    window.addEventListener('online', online);
    window.addEventListener('dockrow:changed', changed);
    document.addEventListener('visibilitychange', seen);
    return () => {
      ended = true;
      release();
      courier?.stop();
      courier = null;
      channel.close();
      window.removeEventListener('online', online);
      window.removeEventListener('dockrow:changed', changed);
      document.removeEventListener('visibilitychange', seen);
    };
  }, [me]);
}

/** What the device knows of itself, drawn again with every change. */
export function useFloor(): FloorState {
  const here = theFloor();
  return useSyncExternalStore(here.watch, here.get);
}
