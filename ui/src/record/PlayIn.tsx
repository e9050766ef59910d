// Playing in: how it is recorded, from which sources, the passes so far, and what was just played.
import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { useEffect } from 'react';
import type { Project } from '../api/client';
import { takePassInstead, useBench } from '../app/state';
import { HowRecorded } from './HowRecorded';
import { JustPlayed } from './JustPlayed';
import { Passes } from './Passes';
import { Sources } from './Sources';
import { StruckLive } from './StruckLive';

export function PlayInDrawer({ project }: { project: Project }) {
  useEffect(
    () => () => {
      if (useBench.getState().alone !== '') void takePassInstead(null, '');
    },
    [],
  );
  return (
    <aside className="drawer playin" data-id="play-in" aria-label="Playing in">
      <div className="row head">
        <h2>Playing in</h2>
        <span className="grow" />
        <Button
          type="text"
          size="small"
          aria-label="Shut"
          icon={<CloseOutlined />}
          onClick={() => useBench.setState({ panel: '' })}
        />
      </div>
      <div className="list">
        <HowRecorded />
        <Passes project={project} />
        <JustPlayed />
        <Sources />
        <StruckLive project={project} />
      </div>
    </aside>
  );
}
