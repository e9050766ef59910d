// The face that is shown takes its own keys: it says what they do, and the window's listener asks it first.
import { useEffect } from 'react';
import type { KeyLike } from './actions';

/** What a face does with a key; false when it is none of its own. */
type TakeKey = (e: KeyLike) => boolean;

let shown: TakeKey | null = null;

/** Lets the face shown take keys while it is shown. */
export function useFaceKeys(take: TakeKey) {
  useEffect(() => {
    shown = take;
    return () => {
      if (shown === take) shown = null;
    };
  }, [take]);
}

/** Offers a key to the face shown. */
export const faceTakes: TakeKey = (e) => shown?.(e) ?? false;
