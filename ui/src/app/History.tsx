// Everything that was done in the project, to jump in.
import { HistoryOutlined } from '@ant-design/icons';
import { Button, Popover } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, type HistoryEntry } from '../api/client';
import { Latest } from '../model/latest';
import { LongList } from './LongList';
import { explain, jumpTo, say, useBench } from './state';

const time = (at: string) =>
  new Date(at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });

export function History() {
  const id = useBench((s) => s.project?.id);
  const revision = useBench((s) => s.project?.revision);
  const open = useBench((s) => s.panel === 'history');
  const [entries, setEntries] = useState<HistoryEntry[]>([]);
  const asked = useRef(new Latest());
  const load = useCallback((project: string, before?: number) => {
    asked.current.of(api.getHistory({ path: { project }, query: before ? { before } : {} })).then(
      (h) => h && setEntries((have) => (before ? [...have, ...h.entries] : h.entries)),
      (e: unknown) => say(explain(e)),
    );
  }, []);
  useEffect(() => {
    if (open && id && revision) load(id);
  }, [open, id, revision, load]);
  const now = entries.find((h) => !h.undone)?.number ?? 0;
  const oldest = entries.at(-1)?.number ?? 0;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={(o) => useBench.setState({ panel: o ? 'history' : '' })}
      content={
        <LongList
          className="history"
          data-id="history"
          items={entries}
          height={30}
          at={-1}
          atEnd={() => {
            if (id && oldest > 1) load(id, oldest);
          }}
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
          <button
            type="button"
            className={now === 0 && oldest <= 1 ? 'now' : ''}
            onClick={() => void jumpTo(0)}
          >
            As the project began
          </button>
        </LongList>
      }
    >
      <Button
        type="text"
        aria-label="History"
        data-id="history-button"
        title="Everything that was done, to jump in (I)"
        icon={<HistoryOutlined />}
      />
    </Popover>
  );
}
