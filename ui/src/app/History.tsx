// Everything that was done in the project, to jump in.
import { HistoryOutlined } from '@ant-design/icons';
import { Button, Popover } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, type HistoryEntry } from '../api/client';
import { Latest } from '../model/latest';
import { lazily } from './lazily';
import { explain, say, useBench } from './state';

const HistoryList = lazily(async () => (await import('./HistoryList')).HistoryList);

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
        <HistoryList
          entries={entries}
          now={now}
          oldest={oldest}
          more={() => id && oldest > 1 && load(id, oldest)}
        />
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
