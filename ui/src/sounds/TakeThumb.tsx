import { Mini } from '../shelf/Mini';
import { useSample } from './peaks';

/** A take's waveform, small, to choose it by. */
export function TakeThumb(props: { sample: string; w: number; on: boolean; choose: () => void }) {
  const s = useSample(props.sample);
  return (
    <button
      type="button"
      className={`thumb ${props.on ? 'on' : ''}`}
      title={s?.name ?? ''}
      onClick={(e) => {
        e.stopPropagation(); // the layer's own click chooses its first take
        props.choose();
      }}
    >
      {s && <Mini peaks={s.facts.peaks} w={props.w} h={20} />}
    </button>
  );
}
