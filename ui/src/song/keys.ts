// The keys of the song.
import { actionFor, type KeyLike } from '../app/actions';
import { useBench } from '../app/state';
import type { SongView } from './draw';
import {
  blockAt,
  changeChosen,
  copyChosen,
  layPattern,
  layRecording,
  nameSection,
  goToRow,
  openBlock,
  recordingsRow,
  repeatChosen,
  rowsOf,
  splitChosen,
  toggleLooped,
  useSong,
} from './state';
import { seekBar } from './stream';
import { keepTrial, leaveTrial, tryBlock, useTrial } from './trial';

/** The cursor some bars on; with Shift the bars between are chosen. */
function go(by: number, choosing: boolean, view: SongView, width: number) {
  const { cursor, range, view: own } = useSong.getState();
  const to = Math.max(0, cursor + by);
  if (choosing) {
    const anchor = range ? (range.from === cursor ? range.to - 1 : range.from) : cursor;
    useSong.setState({ range: { from: Math.min(anchor, to), to: Math.max(anchor, to) + 1 } });
  } else if (!useSong.getState().looped) useSong.setState({ range: null });
  void seekBar(to);
  const shown = width / view.perBar;
  if (own && (to < own.from || to >= own.from + shown - 1))
    useSong.setState({ view: { ...own, from: Math.max(0, to - (by < 0 ? 0 : Math.floor(shown) - 2)) } });
}

function zoom(by: number, view: SongView, width: number) {
  const { cursor } = useSong.getState();
  const perBar = Math.min(400, Math.max(3, view.perBar * by));
  useSong.setState({ view: { perBar, from: Math.max(0, cursor - width / perBar / 3) } });
}

/** Chooses the block at the cursor; true when there is one. */
function chooseHere(): boolean {
  const p = useBench.getState().project;
  const { row, cursor } = useSong.getState();
  const b = p && blockAt(p, row, cursor);
  if (!b) return false;
  useSong.setState({ chosen: [b.id] });
  if (b.value.pattern) useBench.setState({ patternId: b.value.pattern });
  return true;
}

/** To the row above or below. */
function stepRow(by: 1 | -1) {
  const p = useBench.getState().project;
  if (!p) return;
  const rows = rowsOf(p);
  const to = rows[rows.indexOf(useSong.getState().row) + by];
  if (to === undefined) return;
  useSong.setState({ chosen: [] });
  void goToRow(to);
}

export function songKeys(e: KeyLike, view: SongView, width: number): boolean {
  const p = useBench.getState().project;
  const action = actionFor('song', e);
  if (!p || !action) return false;
  const { chosen, row, cursor } = useSong.getState();
  const does: Record<string, () => void> = {
    left: () => go(-1, false, view, width),
    right: () => go(1, false, view, width),
    'choose-left': () => go(-1, true, view, width),
    'choose-right': () => go(1, true, view, width),
    home: () => go(-cursor, false, view, width),
    end: () => go(p.song.end - cursor, false, view, width),
    up: () => stepRow(-1),
    down: () => stepRow(1),
    lay: () => {
      if (useTrial.getState().now) keepTrial(false);
      else if (chooseHere()) return;
      else if (row === recordingsRow)
        layRecording(useBench.getState().recordingId || (p.recordings[0]?.id ?? ''));
      else layPattern(useBench.getState().patternId);
    },
    remove: () => {
      if (chosen.length === 0) chooseHere();
      changeChosen(() => null);
    },
    earlier: () => changeChosen((b) => ({ ...b, bar: b.bar - 1 }), 'Move a bar earlier'),
    later: () => changeChosen((b) => ({ ...b, bar: b.bar + 1 }), 'Move a bar later'),
    more: () => repeatChosen(1),
    less: () => repeatChosen(-1),
    split: splitChosen,
    copy: () => copyChosen(false),
    'copy-own': () => copyChosen(true),
    mute: () => changeChosen((b) => ({ ...b, muted: !b.muted }), 'Mute a block'),
    fill: () => void tryBlock('fill'),
    vary: () => void tryBlock('vary'),
    open: () => void openBlock(p.blocks.find((b) => b.id === chosen[0]) ?? blockAt(p, row, cursor)),
    section: () => nameSection(''),
    loop: toggleLooped,
    nearer: () => zoom(1.5, view, width),
    farther: () => zoom(1 / 1.5, view, width),
    whole: () => useSong.setState({ view: null }),
    leave: () => {
      if (useTrial.getState().now) leaveTrial();
      else useSong.setState({ chosen: [], range: null, looped: false });
    },
  };
  does[action]?.();
  return true;
}
