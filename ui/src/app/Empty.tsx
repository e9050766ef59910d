// A project without lanes: five ways to begin, the lanes of the first already shown in outline.
import { Button } from 'antd';
import { useEffect } from 'react';
import { NoteName } from '../lanes/NoteName';
import type { Project } from '../api/client';
import { bringFile } from '../break/listen';
import { Chip, HitMark, hex, Poly } from '../lanes/marks';
import { LaneHead, MapBar } from '../lanes/MapBar';
import { bring, bringSamples } from './bring';
import { soundFiles } from './dropped';
import { audioFiles, midiFiles, PickFile, useFiles } from './PickFile';
import { toStageIfLost } from './stage';
import { takeKit } from './state';
import { Transport } from './Transport';

/** The full set, as the server makes it. */
const roles: [string, string, string, number][] = [
  ['crash', 'CR', 'cym', 49],
  ['ride', 'RD', 'cym', 51],
  ['open hat', 'HO', 'hat', 46],
  ['pedal hat', 'HP', 'hat', 44],
  ['closed hat', 'HC', 'hat', 42],
  ['shaker', 'SH', 'perc', 70],
  ['rim', 'RM', 'clap', 37],
  ['clap', 'CL', 'clap', 39],
  ['high tom', 'TH', 'tom', 48],
  ['low tom', 'TL', 'tom', 45],
  ['snare', 'SN', 'snare', 38],
  ['kick', 'KI', 'kick', 36],
];

const beat: [string, number[], number][] = [
  ['hat', [0, 2, 4, 6, 8, 10, 12], 92],
  ['snare', [4, 12], 112],
  ['kick', [0, 7, 10], 118],
];

/** A bar of hits, as a break leaves them. */
const heard: [string, number, number][] = [
  ['kick', 0, 118],
  ['hat', 1, 90],
  ['snare', 2.1, 114],
  ['hat', 3, 76],
  ['snare', 3.6, 34],
  ['kick', 4, 100],
  ['kick', 4.9, 84],
  ['hat', 5.5, 70],
  ['snare', 6.15, 120],
  ['hat', 7, 92],
];

const ownSounds = '.wav,.aif,.aiff,.flac,.mp3,.ogg,.opus,.m4a,.zip,audio/*';

export function Empty({ project }: { project: Project }) {
  useEffect(() => toStageIfLost, []);
  const files = useFiles({
    accept: ownSounds,
    id: 'own-files',
    several: 'files',
    take: (f) => bring({ files: f, from: f.length === 1 ? 'one file' : `${f.length} files`, leftOut: 0 }),
  });
  const folder = useFiles({
    accept: ownSounds,
    id: 'own-folder',
    several: 'folder',
    take: (f) =>
      bringSamples(
        f.filter((x) => soundFiles.test(x.name)),
        `the folder ${f[0]?.webkitRelativePath.split('/')[0] ?? ''}`,
      ),
  });
  return (
    <>
      <MapBar project={project} />
      <div className="tools">
        <span className="lab">Nothing here yet. Whatever you choose below, undo brings this page back.</span>
      </div>
      <Transport />
      <div className="crown">
        <svg className="fill" width={1004} height={72}>
          {[0, 1].map((b) => (
            <g key={b}>
              <text x={15 + b * 491} y={12} className="b">
                Bar {b + 1}
              </text>
              <rect
                x={14 + b * 491}
                y={16}
                width={485}
                height={51}
                rx={2}
                fill="none"
                stroke="var(--rule-strong)"
                strokeDasharray="3 3"
              />
              <text x={256 + b * 491} y={46} textAnchor="middle">
                {b === 0 ? 'The whole pattern in small' : 'Click a bar to show it below'}
              </text>
            </g>
          ))}
        </svg>
      </div>
      <LaneHead />
      <div className="ruler row" style={{ padding: '0 14px' }}>
        <b>Five ways to begin</b>
        <span className="lab">at the left, the lanes that the first one makes; nothing here is final</span>
      </div>
      <div className="lanesrow">
        <div className="lanes">
          {roles.map(([role, code, family, note]) => (
            <div key={note} className="lane">
              <Chip code={code} family={family} dashed />
              <span className="nm muted">{role}</span>
              <span className="nt">
                <i>{note}</i>
                <NoteName note={note} />
              </span>
              <span className="lab">none</span>
            </div>
          ))}
        </div>
        <div>
          <div className="way first">
            <b>An empty kit</b>
            <p>Lanes with roles and no sounds. Click in a beat now, give it sounds later.</p>
            <Button type="primary" data-id="make-lanes" autoFocus onClick={() => void takeKit('empty')}>
              Make 12 lanes
            </Button>
            <svg className="abs" style={{ right: 20, top: 0 }} width={440} height={76} aria-hidden="true">
              {beat.map(([family, on, velocity], r) => (
                <g key={family} className={`f-${family}`}>
                  {Array.from({ length: 14 }, (_, i) =>
                    on.includes(i) ? (
                      // oxlint-disable-next-line react/no-array-index-key -- a step is its place
                      <HitMark
                        key={i}
                        x={16 + i * 30.5}
                        y={13 + r * 25}
                        w={24}
                        h={19}
                        velocities={[velocity - (i % 4 ? 30 : 0)]}
                        preview
                      />
                    ) : (
                      <Poly
                        // oxlint-disable-next-line react/no-array-index-key -- a step is its place
                        key={i}
                        pts={hex(16 + i * 30.5, 13 + r * 25, 24, 19)}
                        fill="none"
                        stroke={i % 4 ? 'var(--rule)' : 'var(--rule-strong)'}
                      />
                    ),
                  )}
                </g>
              ))}
            </svg>
          </div>
          <div className="way">
            <b>A ready kit</b>
            <p>Sounds, lanes and notes together. Everything in it can be undone.</p>
            <Button data-id="take-boathouse" onClick={() => void takeKit('boathouse')}>
              Boathouse <span className="lab">12 lanes</span>
            </Button>
            <div className="abs row" style={{ right: 20, top: 24, gap: 4 }}>
              {roles.map(([, code, family, note]) => (
                <Chip key={note} code={code} family={family} />
              ))}
            </div>
          </div>
          <div className="way">
            <b>A recorded break</b>
            <p>Its strokes become hits, timing and loudness kept.</p>
            <div className="row">
              <PickFile accept={audioFiles} take={bringFile}>
                Choose a recording
              </PickFile>
              <span className="lab">WAV, FLAC, MP3, or drop it anywhere</span>
            </div>
            <svg className="abs" style={{ right: 20, top: 10 }} width={440} height={56} aria-hidden="true">
              <line x1={0} x2={440} y1={28} y2={28} stroke="var(--shadow-hit)" />
              {heard.map(([family, at, velocity]) => (
                <g key={at} className={`f-${family}`}>
                  <path
                    d={`M${20 + at * 56} ${28 - velocity / 5}Q${26 + at * 56} 28 ${64 + at * 56} 28Q${26 + at * 56} 28 ${20 + at * 56} ${28 + velocity / 5}Z`}
                    fill="var(--shadow-hit)"
                  />
                  <HitMark x={20 + at * 56} y={28} w={22} h={19} velocities={[velocity]} />
                </g>
              ))}
            </svg>
          </div>
          <div className="way">
            <b>My own samples</b>
            <p>From your disk; first you see which lanes they make.</p>
            <div className="row">
              <Button data-id="own-samples" onClick={files.open}>
                Choose samples
              </Button>
              {files.input}
              <Button onClick={folder.open}>Choose a folder</Button>
              {folder.input}
              <span className="lab">or drop files, folders or a kit anywhere</span>
            </div>
            <div className="abs row" style={{ right: 20, top: 22, gap: 10 }} aria-hidden="true">
              {heard.slice(0, 5).map(([family, at, velocity]) => (
                <svg key={at} width={72} height={30} className={`f-${family}`}>
                  <path
                    d={`M2 ${15 - velocity / 9}Q8 15 70 15Q8 15 2 ${15 + velocity / 9}Z`}
                    fill="var(--c)"
                    stroke="var(--e)"
                  />
                </svg>
              ))}
            </div>
          </div>
          <div className="way">
            <b>A MIDI file</b>
            <p>Its percussion becomes a pattern that plays Boathouse.</p>
            <PickFile accept={midiFiles} take={bringFile}>
              Choose a MIDI file
            </PickFile>
          </div>
        </div>
      </div>
      <div className="stripside" style={{ padding: '10px 12px' }}>
        <span className="ttl">Nothing selected</span>
        <p className="lab" style={{ whiteSpace: 'normal', margin: '6px 0' }}>
          Choose a lane or a hit: its velocity, timing and split are set here.
        </p>
      </div>
      <div className="strip">
        <p className="lab" style={{ textAlign: 'center', marginTop: 36 }}>
          How hard each hit is struck shows here
        </p>
      </div>
    </>
  );
}
