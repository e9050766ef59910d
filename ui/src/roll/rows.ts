// The rows of the Roll: the map's lanes, or all notes; and what a recording sounds like behind them.
import { useEffect, useMemo, useState } from 'react';
import { api, type Lane, type Picture, type Project } from '../api/client';
import { explain, say } from '../app/state';
import { noteName } from '../model/time';

/** Every note as a row, the highest first; those without a lane are called by their names. */
export function everyNote(lanes: Lane[]): Lane[] {
  const has = new Map(lanes.map((l) => [l.note, l]));
  return Array.from({ length: 128 }, (_, i) => {
    const note = 127 - i;
    return (
      has.get(note) ?? {
        note,
        name: noteName(note),
        code: noteName(note).slice(0, 2),
        role: 'other',
        color: 'other',
        shown: true,
      }
    );
  });
}

/** The energy of a recording in each lane's band, by note; null while there is none. */
export function useShadow(
  project: Project,
  recording: string,
  lanes: Lane[],
): ReadonlyMap<number, number[]> | null {
  const [picture, setPicture] = useState<Picture | null>(null);
  useEffect(() => {
    if (recording === '') return;
    const path = { project: project.id, recording };
    api.getPicture({ path, query: { columns: 1024 } }).then(setPicture, (e: unknown) => say(explain(e)));
  }, [project.id, recording]);
  return useMemo(() => {
    if (!picture || recording === '') return null;
    const out = new Map<number, number[]>();
    for (const l of lanes) {
      const energy = picture.energy[l.role];
      if (energy) out.set(l.note, energy);
    }
    return out;
  }, [picture, lanes, recording]);
}
