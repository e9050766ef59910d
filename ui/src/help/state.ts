// Whether help is open, what it points at, and how far the guided path has come.
import { create } from 'zustand';
import { keep, stored, useBench } from '../app/bench';

export interface Show {
  /** the face it is in, when it is in one */
  face?: 'steps' | 'roll' | 'break' | 'sounds' | 'song' | 'mix';
  /** what is pointed at: a selector, of which the first that is there counts */
  at: string;
}

export const useHelp = create<{
  open: boolean;
  keys: boolean;
  shown: { title: string; show: Show } | null;
  /** step of the guided path, −1: it is not walked */
  step: number;
  /** steps that were done */
  done: number[];
  /** the bench as the step began */
  began: ReturnType<typeof useBench.getState>;
  /** whether it was ever begun or put aside here */
  met: boolean;
}>()(() => ({
  open: false,
  keys: false,
  shown: null,
  step: -1,
  done: [],
  began: useBench.getState(),
  met: stored('guide') !== null,
}));

const set = useHelp.setState;

export const openHelp = () => set({ open: true });
export const closeHelp = () => set({ open: false, shown: null });

/** Begins the guided path, or goes to one of its steps. */
export function goToStep(step: number) {
  keep('guide', String(step));
  set({ step, began: useBench.getState(), met: true, open: false, shown: null });
}

/** Ends the guided path; help brings it back. */
export function leaveGuide() {
  keep('guide', 'left');
  set({ step: -1, met: true });
}
