// Everything that was done in the project, to jump in.
import { HistoryOutlined } from '@ant-design/icons';
import { Button, Popover } from 'antd';
import { useEffect, useState } from 'react';
import { api, type HistoryEntry } from '../api/client';
import { explain, jumpTo, say, useBench } from './state';

const time = (at: string) =>
  new Date(at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });

export function History() {
  const id = useBench((s) => s.project?.id);
  const revision = useBench((s) => s.project?.revision);
  const open = useBench((s) => s.panel === 'history');
  const [entries, setEntries] = useState<HistoryEntry[]>([]);
  useEffect(() => {
    if (!open || !id || !revision) return;
    api.getHistory({ path: { project: id } }).then(
      (h) => setEntries(h.entries),
      (e: unknown) => say(explain(e)),
    );
  }, [open, id, revision]);
  const now = entries.find((h) => !h.undone)?.number ?? 0;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={(o) => useBench.setState({ panel: o ? 'history' : '' })}
      content={
        <div className="history" data-id="history">
          {entries.map((h) => (
            <button
              key={h.number}
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
          ))}
          <button type="button" className={now === 0 ? 'now' : ''} onClick={() => void jumpTo(0)}>
            As the project began
          </button>
        </div>
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
