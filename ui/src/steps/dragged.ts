// The hit that is dragged on the stage, as it was and as it would be: the strip shows it so, too.
import { create } from 'zustand';
import type { Hit } from '../api/client';

export const useDragged = create<{ now: { was: Hit; is: Hit } | null }>()(() => ({ now: null }));
