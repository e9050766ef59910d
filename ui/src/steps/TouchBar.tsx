// What a finger changes of the hit at the cursor, on buttons: under a tablet's steps, in the strip's place.
import { Button } from 'antd';
import type { Lane, Pattern } from '../api/client';
import { useBench } from '../app/state';
import { hitAt } from '../model/time';
import type { StepsGeometry } from './geometry';
import { gridActions } from './keys';

const still = () => undefined;

export function TouchBar({ pattern, lanes, g }: { pattern: Pattern; lanes: Lane[]; g: StepsGeometry }) {
  const lane = useBench((s) => s.lane);
  const cell = useBench((s) => s.cell);
  const hit = hitAt(pattern, lane, cell);
  const press = (name: string, words: string, title: string, needs = true) => (
    <Button
      size="large"
      title={title}
      data-id={`touch-${name}`}
      disabled={needs && !hit}
      onClick={() => gridActions(pattern, lanes, g, still).does[name]?.()}
    >
      {words}
    </Button>
  );
  return (
    <div className="strip touchbar" role="group" aria-label="The hit at the cursor">
      {press('softer', 'Softer', 'Softer by 4')}
      <b className="num">{hit?.velocity ?? '–'}</b>
      {press('louder', 'Harder', 'Harder by 4')}
      <span className="sep" />
      {press('early', 'Early', 'Earlier by 1 ms')}
      {press('late', 'Late', 'Later by 1 ms')}
      <span className="sep" />
      {press('split', `Split ${Math.max(1, hit?.split ?? 1)}`, 'In one stroke more, up to 8')}
      {press('unsplit', 'Whole', 'In one stroke')}
      <span className="grow" />
      {press('set', hit ? 'Clear' : 'Set', hit ? 'Takes the hit away' : 'Sets a hit', false)}
    </div>
  );
}
