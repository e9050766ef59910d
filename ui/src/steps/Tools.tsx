import { RestSlider } from '../app/RestSlider';
import { LeftOutlined, RightOutlined } from '@ant-design/icons';
import { Button, Switch } from 'antd';
import { Choice } from '../app/Choice';
import { memo, useState } from 'react';
import type { Pattern, Project } from '../api/client';
import { showAcross, showBar, toggleHeld, useBench } from '../app/state';
import { sameButHits } from '../lanes/same';
import { FeelTools, saveFeel } from './Feel';
import { Files, PatternPick } from './PatternTools';

/** Which bar is shown, and whether it follows what plays. */
function BarShown({ bars, first, across }: { bars: number; first: number; across: number }) {
  const held = useBench((s) => s.held);
  const follow = useBench((s) => s.follow);
  return (
    <>
      <Button
        size="small"
        icon={<LeftOutlined />}
        aria-label="Previous bar"
        title="Previous bar ([)"
        disabled={first === 0}
        onClick={() => showBar(first - across)}
      />
      <span data-id="bar">
        <b>
          {across === 1 ? `Bar ${first + 1}` : `Bars ${first + 1}${across > 2 ? '–' : ', '}${first + across}`}
        </b>{' '}
        of {bars}
      </span>
      <Button
        size="small"
        icon={<RightOutlined />}
        aria-label="Next bar"
        title="Next bar (])"
        disabled={first + across >= bars}
        onClick={() => showBar(first + across)}
      />
      <Button
        size="small"
        type={held ? 'primary' : 'default'}
        aria-pressed={held !== null}
        data-id="hold"
        title={'Hold these bars: loop just what is shown, so that the page stays (\\)'}
        disabled={!held && across >= bars}
        onClick={() => toggleHeld(first, across)}
      >
        Hold
      </Button>
      <Switch
        size="small"
        checked={follow && !held}
        disabled={held !== null}
        aria-label="Follow"
        onChange={(v) => useBench.setState({ follow: v })}
      />
      <span className="muted">Follow</span>
    </>
  );
}

export const StepsTools = memo(function StepsTools({
  project,
  pattern,
  first,
  across,
  roomy,
}: {
  project: Project;
  pattern: Pattern;
  /** first bar shown, and how many are */
  first: number;
  across: number;
  /** wide enough for the choice of how many */
  roomy: boolean;
}) {
  const [swing, setSwing] = useState<number | null>(null);
  const feel = pattern.feel ?? project.settings.feel;
  return (
    <div className="tools">
      <PatternPick project={project} pattern={pattern} />
      <span className="sep" />
      <BarShown bars={pattern.bars} first={first} across={across} />
      {roomy && (
        <Choice<number>
          name="Bars side by side"

          data-id="across"
          title="Bars side by side (Ctrl+← more, Ctrl+→ fewer)"
          value={across}
          options={[1, 2, 4].map((n) => ({ value: n, label: n, disabled: n > pattern.bars }))}
          onChange={showAcross}
        />
      )}
      <span className="sep" />
      <span className="row">
        <span className="lab">Swing</span>
        <RestSlider
          name="Swing in percent"
          style={{ width: 56 }}
          min={50}
          max={75}
          value={feel.swing.percent}
          moving={setSwing}
          set={(v) => saveFeel(project, pattern, { swing: { ...feel.swing, percent: v } }, `Swing ${v} %`)}
        />
        <span className="num">{Math.round(swing ?? feel.swing.percent)}%</span>
      </span>
      <FeelTools project={project} pattern={pattern} />
      <span className="grow" />
      <Files project={project} />
    </div>
  );
}, sameButHits);
