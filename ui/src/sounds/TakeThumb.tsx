import { Mini } from '../shelf/Mini';
import { type Part, usePartPeaks } from './peaks';

/** A take's waveform as it sounds, small, to choose it by. */
export function TakeThumb(props: { part: Part; name: string; w: number; on: boolean; choose: () => void }) {
  const peaks = usePartPeaks(props.part);
  return (
    <button
      type="button"
      className={`thumb ${props.on ? 'on' : ''}`}
      title={props.name}
      onClick={(e) => {
        e.stopPropagation(); // the layer's own click chooses its first take
        props.choose();
      }}
    >
      {peaks && <Mini peaks={peaks} w={props.w} h={20} />}
    </button>
  );
}
