// How one take is shaped, on its waveform: region, fades, envelope, loop. Nothing of it changes the sample.
import { NumberField } from '../app/NumberField';
import { Button, Select, Switch } from 'antd';
import { useRef, useState } from 'react';
import { api, type Lane, type Project, type Shape, type Take } from '../api/client';
import { explain, say, useBench } from '../app/state';
import { hear, openShelf } from '../shelf/state';
import type { CurveKind } from './Curve';
import { useSample } from './peaks';
import { chosenNotes, kitEdit, padOf, takeOf, useSounds, withTake, withTakes } from './state';
import { num, Waveform } from './Waveform';

export type Snap = 'zero' | 'attack' | 'free';

/** The zero crossing or attack nearest to a frame. */
const snapped = async (hash: string, frame: number, to: 'zero' | 'attack') =>
  (await api.snapSample({ path: { hash }, query: { frame, to } })).frame;

function Field({
  name,
  unit,
  value,
  set,
  min = 0,
  max = 20000,
  digits = 1,
  width = 62,
}: {
  name: string;
  unit: string;
  value: number;
  set: (v: number) => void;
  min?: number;
  max?: number;
  digits?: number;
  width?: number;
}) {
  return (
    <span className="row" style={{ gap: 4 }}>
      <span className="lab">{name}</span>
      <NumberField
        name={`${name}, ${unit}`}
        size="small"
        controls={false}
        style={{ width }}
        suffix={<span className="lab">{unit}</span>}
        min={min}
        max={max}
        value={num(value, digits)}
        set={(v) => v !== null && set(v)}
      />
    </span>
  );
}

export function ShapeEditor({
  project,
  lane,
  draws,
}: {
  project: Project;
  lane: Lane;
  /** the curve that is drawn; '' pulls the region, fades and loop */
  draws: CurveKind | '';
}) {
  const at = useSounds();
  const pad = padOf(project, lane.note);
  const sound = pad.layers[at.layer]?.sounds[at.sound];
  const kept = sound?.takes[at.take];
  const { trying } = at;
  // while a sample is tried here, what is drawn is what sounds
  const tried =
    trying?.note === lane.note && trying.hear !== 'old' && (trying.whole || trying.layer === at.layer)
      ? trying
      : null;
  const take = tried ? takeOf(tried.hash, tried.name) : kept;
  const [draft, setDraft] = useState<{ of: Take; shape: Shape } | null>(null);
  const [snap, setSnap] = useState<Snap>('zero');
  const [belowDB, setBelowDB] = useState(-48);
  const newest = useRef<Shape | null>(null);
  const known = useSample(take?.sample);
  if (!take) return null;
  const shape = draft && draft.of === take ? draft.shape : take.shape;
  // what changes is laid over the take as it is by then: another edit may have come between
  const write = (part: Partial<Shape>, label: string) => {
    const { project: now } = useBench.getState();
    const newestPad = now && padOf(now, lane.note);
    const t = newestPad?.layers[at.layer]?.sounds[at.sound]?.takes[at.take];
    setDraft(null);
    if (!now || !t || t.sample !== take.sample) return;
    const s = { ...t.shape, ...part };
    const own = withTake(newestPad, at.layer, at.sound, at.take, { ...t, shape: s });
    // other lanes chosen: every take of theirs gets what is no place in the sample
    const { startFrame: _, endFrame: __, loopStart: ___, loopEnd: ____, loop: _____, ...shared } = part;
    const others = Object.keys(shared).length > 0 ? chosenNotes(lane.note).slice(1) : [];
    void kitEdit({
      op: 'pads',
      put: [own, ...others.map((n) => withTakes(padOf(now, n), shared))],
      label: others.length > 0 ? `${label} and ${others.length} more` : label,
    });
  };
  const set = (part: Partial<Shape>, label: string) => write(part, `${label} of ${lane.name}`);
  const sample = take.sample;
  const done = async () => {
    const s = newest.current;
    newest.current = null;
    if (!s) return;
    const was = take.shape;
    const out: Partial<Shape> = Object.fromEntries(
      Object.entries(s).filter(([k, v]) => was[k as keyof Shape] !== v),
    );
    if (snap !== 'free') {
      try {
        if (out.startFrame !== undefined) out.startFrame = await snapped(sample, s.startFrame, snap);
        if (out.endFrame) out.endFrame = await snapped(sample, s.endFrame, snap);
        if (s.loop && out.loopStart !== undefined) out.loopStart = await snapped(sample, s.loopStart, 'zero');
        const end = out.endFrame ?? s.endFrame;
        if (end > 0 && end <= (out.startFrame ?? s.startFrame)) out.endFrame = s.endFrame;
      } catch (e) {
        say(explain(e));
      }
    }
    write(out, draws ? `Drawn ${draws} of ${lane.name}` : `Shape of ${lane.name}`);
  };
  const trimDead = async () => {
    try {
      const t = await api.trimSample({ path: { hash: sample }, query: { belowDB } });
      const start = await snapped(sample, t.startFrame, 'zero');
      set(
        { startFrame: start, endFrame: shape.endFrame && shape.endFrame <= start ? 0 : shape.endFrame },
        'Take dead air off the start',
      );
    } catch (e) {
      say(explain(e));
    }
  };
  const level = async () => {
    try {
      const s = await api.getSample({ path: { hash: sample } });
      set({ gainDB: num(-s.facts.peakDB, 2) }, 'Level to peak');
    } catch (e) {
      say(explain(e));
    }
  };
  return (
    <div className={`shape f-${lane.color}`}>
      <div className="row" style={{ gap: 6, height: 30 }}>
        <Button
          size="small"
          onClick={() => void hear(sample, { start: shape.startFrame, end: shape.endFrame })}
          title="Hear the region as it came"
        >
          Hear
        </Button>
        <b>
          Layer {at.layer + 1}
          {sound && sound.takes.length > 1 ? `, take ${at.take + 1} of ${sound.takes.length}` : ''}
        </b>
        <button
          type="button"
          className="tag ellipsis"
          style={{ maxWidth: 150 }}
          title="Show it on the shelf"
          onClick={() => openShelf({ text: take.source, kind: '', folder: '', tag: '', maxSeconds: 0 })}
        >
          {take.source}
        </button>
        <span className="grow" />
        <span className="lab">Snap</span>
        <Select
          size="small"
          style={{ width: 86 }}
          aria-label="Snap to"
          value={snap}
          options={[
            { value: 'zero', label: 'zero' },
            { value: 'attack', label: 'attacks' },
            { value: 'free', label: 'free' },
          ]}
          onChange={setSnap}
        />
        <Button size="small" onClick={() => void trimDead()} title="Begin where it first reaches this level">
          Trim start
        </Button>
        <NumberField
          name="Dead air lies below, dB"
          size="small"
          controls={false}
          style={{ width: 58 }}
          suffix={<span className="lab">dB</span>}
          min={-120}
          max={0}
          value={belowDB}
          set={(v) => setBelowDB(v ?? -48)}
        />
        <Button
          size="small"
          type={shape.reverse ? 'primary' : 'default'}
          aria-pressed={shape.reverse}
          title="The sound runs backwards"
          onClick={() => set({ reverse: !shape.reverse }, 'Reverse')}
        >
          Reverse
        </Button>
        <Button size="small" onClick={() => void level()} title="Raise the sample's peak to full scale">
          To peak
        </Button>
      </div>
      <Waveform
        take={take}
        shape={shape}
        draws={tried ? '' : draws}
        change={(s) => {
          newest.current = s;
          setDraft({ of: take, shape: s });
        }}
        done={() => void done()}
      />
      {!draws && (
        <div className="row" style={{ gap: 9, height: 30 }}>
          <Field
            name="Gain"
            unit="dB"
            min={-60}
            max={48}
            value={shape.gainDB}
            set={(v) => set({ gainDB: v }, 'Gain')}
          />
          <Field
            name="Fade in"
            unit="ms"
            value={shape.fadeInMS}
            set={(v) => set({ fadeInMS: v }, 'Fade in')}
          />
          <Field
            name="out"
            unit="ms"
            value={shape.fadeOutMS}
            set={(v) => set({ fadeOutMS: v }, 'Fade out')}
          />
          <Select
            size="small"
            style={{ width: 82 }}
            aria-label="Curve of the fade out"
            value={shape.curve}
            options={['straight', 'falling', 'round'].map((v) => ({ value: v, label: v }))}
            onChange={(curve: Shape['curve']) => set({ curve }, 'Fade curve')}
          />
          <Switch
            size="small"
            checked={shape.loop}
            disabled={!pad.held}
            aria-label="Loop while held"
            onChange={(loop) => {
              const own = known?.loops[0]; // the file's own loop, if it has one
              const from = shape.loopEnd === 0 && own ? own.startFrame : shape.loopStart;
              const to = shape.loopEnd === 0 && own ? own.endFrame : shape.loopEnd;
              set({ loop, loopStart: Math.max(from, shape.startFrame), loopEnd: to }, 'Loop');
            }}
          />
          <span
            className="lab"
            title={pad.held ? '' : 'A one-shot pad plays its region once; a held pad can loop'}
          >
            loop
          </span>
        </div>
      )}
      {draws && (
        <div className="row" style={{ gap: 9, height: 30 }}>
          <span className="lab">
            Click draws a point of the {draws}, dragging moves it, a double click takes it out.
          </span>
          <span className="grow" />
          <span className="num">{shape[draws]?.length ?? 0} points</span>
          <Button
            size="small"
            disabled={(shape[draws]?.length ?? 0) === 0}
            onClick={() => set({ [draws]: [] }, `Take off the drawn ${draws}`)}
          >
            Clear
          </Button>
        </div>
      )}
      <div className="row" style={{ gap: 9, height: 30 }}>
        <Field name="Attack" unit="ms" value={shape.attackMS} set={(v) => set({ attackMS: v }, 'Attack')} />
        <Field name="Decay" unit="ms" value={shape.decayMS} set={(v) => set({ decayMS: v }, 'Decay')} />
        <Field
          name="Sustain"
          unit="%"
          max={100}
          value={shape.sustainPct}
          set={(v) => set({ sustainPct: v }, 'Sustain')}
        />
        <Field
          name="Release"
          unit="ms"
          value={shape.releaseMS}
          set={(v) => set({ releaseMS: v }, 'Release')}
        />
      </div>
    </div>
  );
}
