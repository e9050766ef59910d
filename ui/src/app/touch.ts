// Fingers need more room than a mouse: where they work, in a small window, lanes are higher and what a hit is stands on buttons.
import { useSyncExternalStore } from 'react';

const fingers = window.matchMedia('(pointer: coarse) and (max-width: 1180px)');

/** Whether the window is a tablet's. */
export function useTouch(): boolean {
  return useSyncExternalStore(
    (changed) => {
      fingers.addEventListener('change', changed);
      return () => fingers.removeEventListener('change', changed);
    },
    () => fingers.matches,
  );
}

/** The least that a finger strikes surely, px. */
export const fingerPx = 44;
