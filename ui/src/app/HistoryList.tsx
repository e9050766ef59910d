// The steps of a project's history, newest first.
import type { HistoryEntry } from '../api/client';
import { LongList } from './LongList';
import { jumpTo } from './state';

const time = (at: string) =>
  new Date(at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });

export function HistoryList({
  entries,
  now,
  oldest,
  more,
}: {
  entries: HistoryEntry[];
  /** where the project is, and the oldest step that is shown */
  now: number;
  oldest: number;
  more: () => void;
}) {
  return (
    <LongList
      className="history"
      data-id="history"
      items={entries}
      height={30}
      at={-1}
      atEnd={more}
      renderRow={(h) => (
        <button
          type="button"
          className={`${h.undone ? 'undone' : ''} ${h.number === now ? 'now' : ''}`}
          title={
            h.number === now
              ? 'Here you are'
              : h.undone
                ? 'Do everything up to here again'
                : 'Take back everything after this'
          }
          onClick={() => void jumpTo(h.number)}
        >
          <span className="grow ellipsis">{h.label}</span>
          <span className="lab">{time(h.at)}</span>
        </button>
      )}
    >
      <button type="button" className={now === 0 && oldest <= 1 ? 'now' : ''} onClick={() => void jumpTo(0)}>
        As the project began
      </button>
    </LongList>
  );
}
