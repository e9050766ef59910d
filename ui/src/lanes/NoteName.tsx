import { useBench } from '../app/state';
import { noteName } from '../model/time';

/** A note's name, which changes at once when middle C is counted otherwise. */
export function NoteName({ note }: { note: number }) {
  useBench((s) => s.middleC);
  return <>{noteName(note)}</>;
}
