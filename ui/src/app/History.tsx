// Everything that was done in the project, to jump in.
import { HistoryOutlined } from '@ant-design/icons';
import { Button, Popover } from 'antd';
import { useState } from 'react';
import { api, type HistoryEntry } from '../api/client';
import { explain, jumpTo, say, useBench } from './state';

const time = (at: string) =>
  new Date(at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' });

export function History() {
  const id = useBench((s) => s.project?.id);
  const [entries, setEntries] = useState<HistoryEntry[]>([]);
  const load = async () => {
    if (!id) return;
    try {
      setEntries((await api.history(id)).entries);
    } catch (e) {
      say(explain(e));
    }
  };
  const jump = (n: number) => void jumpTo(n).then(load);
  const now = entries.find((h) => !h.undone)?.number ?? 0;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      onOpenChange={(open) => {
        if (open) void load();
      }}
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
              onClick={() => jump(h.number)}
            >
              <span className="grow ellipsis">{h.label}</span>
              <span className="lab">{time(h.at)}</span>
            </button>
          ))}
          <button type="button" className={now === 0 ? 'now' : ''} onClick={() => jump(0)}>
            As the project began
          </button>
        </div>
      }
    >
      <Button
        type="text"
        aria-label="History"
        data-id="history-button"
        title="Everything that was done, to jump in"
        icon={<HistoryOutlined />}
      />
    </Popover>
  );
}
