// Ready structures of a song, and a pattern played on as a drummer would.
import { Button, Dropdown } from 'antd';
import { useState } from 'react';
import type { Project } from '../api/client';
import { NumberField } from '../app/NumberField';
import { RestSlider } from '../app/RestSlider';
import { edit, useBench } from '../app/state';
import { shapes } from '../model/constants.gen';
import { seed } from '../patterns/state';
import { recordingsRow, useSong } from './state';
import { keepTrial, leaveTrial, tryPerforming, useTrial } from './trial';

export function Shapes({ project }: { project: Project }) {
  const cursor = useSong((s) => s.cursor);
  const row = useSong((s) => s.row);
  const patternId = useBench((s) => s.patternId);
  const [bars, setBars] = useState(8);
  const [amount, setAmount] = useState(50);
  const part = row === recordingsRow ? project.part : row;
  const trial = useTrial((t) => t.now);
  const performing = trial?.what === 'perform' ? trial : null;
  const name = project.patterns.find((p) => p.id === patternId)?.value.name ?? '';
  const others = project.patterns.filter((p) => p.id !== patternId && p.value.hits.length > 0);
  const used = [patternId, ...others.map((p) => p.id)].slice(0, 3);
  return (
    <>
      <Dropdown
        trigger={['click']}
        menu={{
          items: shapes.map((s) => ({
            key: s.name,
            label: (
              <span>
                <b>{s.name}</b> <span className="lab">{s.words}</span>
              </span>
            ),
          })),
          onClick: ({ key }) =>
            void edit([{ layShape: { shape: key, patterns: used, bar: cursor, ...(part ? { part } : {}) } }]),
        }}
      >
        <Button
          size="small"
          data-id="shapes"
          title={`A ready structure from bar ${cursor + 1} on, made of ${name} and the patterns beside it`}
        >
          Lay a shape…
        </Button>
      </Dropdown>
      <span className="row" style={{ gap: 6 }} data-id="perform-song">
        {performing ? (
          <>
            <Button size="small" type="primary" data-id="keep-performance" onClick={() => keepTrial(false)}>
              Keep
            </Button>
            <Button size="small" onClick={() => void tryPerforming({ ...performing.perform, seed: seed() })}>
              Another
            </Button>
            <Button
              size="small"
              type={performing.without ? 'primary' : 'default'}
              aria-pressed={performing.without}
              title="The pattern as it is, for these bars"
              onClick={() => void tryPerforming(performing.perform, !performing.without)}
            >
              Without
            </Button>
            <Button size="small" type="text" title="Escape" onClick={leaveTrial}>
              Put back
            </Button>
          </>
        ) : (
          <>
            <Button
              size="small"
              data-id="perform"
              title={`${name}, played on from bar ${cursor + 1} as a drummer would: small changes, accents that breathe, a fill every four bars. Heard before it is kept`}
              onClick={() =>
                void tryPerforming({
                  pattern: patternId,
                  bar: cursor,
                  bars,
                  amount,
                  fillEvery: 4,
                  seed: seed(),
                  ...(part ? { part } : {}),
                })
              }
            >
              Perform
            </Button>
            <NumberField
              size="small"
              style={{ width: 44 }}
              name="Bars to perform"
              min={1}
              max={64}
              controls={false}
              value={bars}
              set={(v) => v && setBars(v)}
            />
            <span className="lab">bars, changing</span>
            <RestSlider
              style={{ width: 70 }}
              min={0}
              max={100}
              step={5}
              value={amount}
              name="How much it changes, percent"
              set={setAmount}
            />
          </>
        )}
      </span>
    </>
  );
}
