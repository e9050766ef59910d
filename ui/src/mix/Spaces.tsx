// The room and the delay.
import { useCallback } from 'react';
import { api, type MixRoom, type Project } from '../api/client';
import { NumberField } from '../app/NumberField';
import { useAnswer } from '../app/useAnswer';
import { grids } from '../model/constants.gen';
import { parseFloatWAV } from '../player/player';
import { Fields } from './fields';
import { editMix } from './state';

export function RoomPanel({ project }: { project: Project }) {
  const { room } = project.mix;
  const { id } = project;
  const { size, length, tone } = room;
  const response = useAnswer(
    useCallback(async () => {
      const data = await api.getRoom({
        path: { project: id },
        query: { rate: 8000 },
        parseAs: 'arrayBuffer',
      });
      const [left] = parseFloatWAV(data as unknown as ArrayBuffer).channels;
      // asked anew for another room
      return left && size + length + tone > -100 ? left : null;
    }, [id, size, length, tone]),
  );
  const put = (to: Partial<MixRoom>, label: string) => void editMix({ room: { ...room, ...to } }, label);
  const step = Math.max(1, Math.floor((response?.length ?? 0) / 300));
  return (
    <div className="processing" style={{ gridTemplateColumns: '1.4fr 1fr' }}>
      <section>
        <div className="row">
          <b>Room</b>
          <span className="lab">one for all: each lane is sent to it, or stays dry</span>
        </div>
        <svg
          viewBox="0 0 300 40"
          preserveAspectRatio="none"
          role="img"
          aria-label={`It dies away in ${length} seconds`}
        >
          <path
            d={Array.from({ length: Math.floor((response?.length ?? 0) / step) }, (_, i) => {
              let top = 0;
              for (let k = i * step; k < (i + 1) * step; k++)
                top = Math.max(top, Math.abs(response?.[k] ?? 0));
              return `M${i},40V${(40 - Math.max(0, 40 + (20 * Math.log10(top + 1e-5) * 40) / 80)).toFixed(1)}`;
            }).join('')}
            stroke="var(--ink-3)"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <Fields
          word="Room"
          of={room}
          rows={[
            ['size', 'Size', 'm', 3, 60],
            ['length', 'Length', 's', 0.2, 4, 0.1],
            ['tone', 'Tone', '−1 dark, 1 bright', -1, 1, 0.1],
          ]}
          put={put}
        />
      </section>
      <section>
        <p className="lab" style={{ whiteSpace: 'normal' }}>
          The first echo comes after {Math.round((size / 343) * 1000)} ms. Tick a lane’s room above to send it
          there; its slider says how much.
        </p>
      </section>
    </div>
  );
}

export function DelayPanel({ project }: { project: Project }) {
  const { delay } = project.mix;
  const put = (to: Partial<typeof delay>, label: string) =>
    void editMix({ delay: { ...delay, ...to } }, label);
  return (
    <div className="processing" style={{ gridTemplateColumns: '1.4fr 1fr' }}>
      <section>
        <div className="row">
          <b>Delay</b>
          <span className="lab">in note values, at the project’s tempo</span>
        </div>
        <svg viewBox="0 0 100 40" preserveAspectRatio="none" role="img" aria-label="Repeats, each softer">
          {Array.from({ length: 12 }, (_, i) => (
            <line
              key={i}
              x1={2 + i * 8}
              x2={2 + i * 8}
              y1={40}
              y2={40 - 36 * (i === 0 ? 1 : delay.feedback ** (i - 1))}
              stroke={i === 0 ? 'var(--rule-strong)' : 'var(--ink)'}
              strokeWidth={2}
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </svg>
        <div className="fields">
          <label>
            Note value
            <select
              aria-label="From one repeat to the next"
              value={delay.grid}
              onChange={(x) => put({ grid: x.target.value }, `Delay of ${x.target.value}`)}
            >
              {grids.map((g) => (
                <option key={g}>{g}</option>
              ))}
            </select>
          </label>
          <label>
            Again, %
            <NumberField
              size="small"
              style={{ width: '100%' }}
              controls={false}
              name="How much of each repeat is in the next, %"
              min={0}
              max={95}
              value={Math.round(delay.feedback * 100)}
              set={(v) => v !== null && put({ feedback: v / 100 }, `Delay again: ${v} %`)}
            />
          </label>
          <label>
            Up to, Hz
            <NumberField
              size="small"
              style={{ width: '100%' }}
              controls={false}
              name="Repeats lose what lies above, Hz"
              min={200}
              max={20000}
              value={delay.tone}
              set={(v) => v !== null && put({ tone: v }, `Delay up to ${v} Hz`)}
            />
          </label>
        </div>
      </section>
      <section>
        <p className="lab" style={{ whiteSpace: 'normal' }}>
          Tick a lane’s delay above to send it there. Each repeat comes a note value later; where the tempo
          changes, they keep that of the project.
        </p>
      </section>
    </div>
  );
}
