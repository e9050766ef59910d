// A sample of the shelf in one line: heard by clicking, dragged onto lanes, layers and pads.
import { memo } from 'react';
import type { FoundSample } from '../api/client';
import { Chip } from '../lanes/marks';
import { codeOf, familyOf } from './kinds';
import { Mini } from './Mini';
import { chooseSample, hearItem, useShelf } from './state';
import { dragType } from './dragTypes';

const seconds = (s: number) => (s < 10 ? `${s.toFixed(2)} s` : `${s.toFixed(1)} s`);

export const SampleRow = memo(function SampleRow({
  s,
  at,
  on,
  chosen,
  likeness,
}: {
  s: FoundSample;
  at: number;
  on: boolean;
  chosen: boolean;
  likeness: boolean;
}) {
  return (
    <div
      role="option"
      aria-selected={on}
      id={`shelf-${at}`}
      className={`sample f-${familyOf(s.kind)} ${on ? 'on' : ''} ${chosen ? 'chosen' : ''}`}
      title={`${s.folder ? `${s.folder}/` : ''}${s.name}\n${s.format} ${s.rate / 1000} kHz, ${s.facts.loudness.toFixed(1)} LUFS`}
      draggable
      onDragStart={(e) => {
        const hashes = chosen ? useShelf.getState().chosen : [s.hash];
        e.dataTransfer.setData(dragType, JSON.stringify(hashes));
        e.dataTransfer.setData('text/plain', s.name);
        e.dataTransfer.effectAllowed = 'copy';
      }}
      onClick={(e) => {
        chooseSample(at, e.shiftKey || e.ctrlKey);
        if (!useShelf.getState().hearOnSelect) void hearItem(s);
      }}
    >
      <span className="go" aria-hidden="true">
        <svg width={10} height={10}>
          <path d="M1 0l9 5-9 5z" fill="currentColor" />
        </svg>
      </span>
      <Mini peaks={s.facts.peaks} />
      <span className="what">
        <b>{s.name.replace(/\.[^.]*$/, '')}</b>
        <span className="lab">
          {likeness ? `${Math.round(s.likeness * 100)}% alike, ` : ''}
          {s.kind}
          {s.confidence < 0.6 ? ' ?' : ''}
          {s.tags.length > 0 ? `, ${s.tags.join(', ')}` : ''}
        </span>
      </span>
      <span className="num muted">{seconds(s.facts.seconds)}</span>
      <Chip code={codeOf(s.kind)} family={familyOf(s.kind)} w={25} h={20} dashed={s.confidence < 0.6} />
    </div>
  );
});
