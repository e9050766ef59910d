import type { Swatch } from '../api/client';
import { Button, ConfigProvider } from 'antd';
import { useEffect, useLayoutEffect, useMemo } from 'react';
import { useMaps } from '../maps/state';
import { Dock } from '../pads/Dock';
import { useSounds } from '../sounds/state';
import { openHelp, useHelp } from '../help/state';
import { useShelf } from '../shelf/state';
import { player } from '../player/player';
import { useProjects } from '../projects/state';
import { StepsFace } from '../steps/StepsFace';
import { bring } from './bring';
import { droppedFiles } from './dropped';
import { Header } from './Header';
import { helpWhatIsPointedAt } from './hoverHelp';
import { listenToKeys } from './keys';
import { fetchLists } from './later';
import { fetchTheRest, lazily } from './lazily';
import { Notices } from './Notices';
import { toStage } from './stage';
import { currentPattern, explain, say, useBench } from './state';
import { themeFor } from './theme';

// what the first view does not show
const Empty = lazily(async () => (await import('./Empty')).Empty);
const BreakFace = lazily(async () => (await import('../break/BreakFace')).BreakFace);
const CarryFace = lazily(async () => (await import('../maps/CarryFace')).CarryFace);
const MapFace = lazily(async () => (await import('../maps/MapFace')).MapFace);
const SongFace = lazily(async () => (await import('../song/SongFace')).SongFace);
const SoundsFace = lazily(async () => (await import('../sounds/SoundsFace')).SoundsFace);
const ShelfDrawer = lazily(async () => (await import('../shelf/Shelf')).ShelfDrawer);
const PatternsDrawer = lazily(async () => (await import('../patterns/PatternsDrawer')).PatternsDrawer);
const ReadyDrawer = lazily(async () => (await import('../patterns/ReadyDrawer')).ReadyDrawer);
const PlayInDrawer = lazily(async () => (await import('../record/PlayIn')).PlayInDrawer);
const ProjectsFace = lazily(async () => (await import('../projects/ProjectsFace')).ProjectsFace);
const MixFace = lazily(async () => (await import('../mix/MixFace')).MixFace);
const RollFace = lazily(async () => (await import('../roll/RollFace')).RollFace);
const OneStroke = lazily(async () => (await import('../sounds/OneStroke')).OneStroke);
const HelpDrawer = lazily(async () => (await import('../help/HelpDrawer')).HelpDrawer);
const Guide = lazily(async () => (await import('../help/Guide')).Guide);
const KeySheet = lazily(async () => (await import('./KeySheet')).KeySheet);

/** How far many files have come, where no shelf shows it. */
function Importing() {
  const now = useShelf((s) => (s.open ? null : s.importing));
  if (!now || now.total < 20) return null;
  return (
    <div className="importing pending" role="status">
      <span>
        Reading sample {now.done} of {now.total}
      </span>
      <Button size="small" ghost onClick={now.cancel}>
        Stop
      </Button>
    </div>
  );
}

/** Lane colours of one's own, with edges and letters that show on both papers. */
function Swatches({ swatches }: { swatches: Swatch[] }) {
  const css = swatches
    .map((s) => {
      const name = `.f-${CSS.escape(s.color)}`;
      return `${name}{--c:${s.fill};--e:${s.edgeLight};--o:${s.on}}[data-theme='dark'] ${name}{--e:${s.edgeDark}}`;
    })
    .join('');
  return <style>{css}</style>;
}

/** A file held over the window. */
function useDrop(): boolean {
  const over = useBench((x) => x.fileOver);
  useEffect(() => {
    const setOver = (fileOver: boolean) => {
      if (useBench.getState().fileOver !== fileOver) useBench.setState({ fileOver });
    };
    const holdsFiles = (e: DragEvent) => e.dataTransfer?.types.includes('Files') ?? false;
    const drag = (e: DragEvent) => {
      if (!holdsFiles(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const leave = (e: DragEvent) => {
      if (e.relatedTarget === null) setOver(false);
    };
    const drop = (e: DragEvent) => {
      if (!holdsFiles(e)) return;
      e.preventDefault();
      setOver(false);
      if (e.dataTransfer)
        void droppedFiles(e.dataTransfer)
          .then(bring)
          .catch((x: unknown) => say(explain(x)));
    };
    window.addEventListener('dragover', drag);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', drag);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return over;
}

const closeKeys = () => useHelp.setState({ keys: false });

/** Leads the keys past the tools to what is worked on; seen only when it has the focus. */
function ToTheStage() {
  return (
    <button type="button" className="tostage" data-id="to-stage" onClick={toStage}>
      To the stage
    </button>
  );
}

export function App() {
  const dark = useBench((s) => s.dark);
  const project = useBench((s) => s.project);
  const pattern = useBench(currentPattern);
  const face = useBench((s) => s.face);
  const patternId = useBench((s) => s.patternId);
  const padsOpen = useBench((s) => s.padsOpen);
  const shelfOpen = useShelf((s) => s.open);
  const panel = useBench((s) => s.panel);
  const cutting = useSounds((s) => s.cutting !== '');
  const editing = useMaps((s) => s.editing);
  const carrying = useMaps((s) => s.carrying);
  const listening = useMaps((s) => s.listening !== null);
  const managing = useProjects((s) => s.open) && carrying === null;
  const mapping = editing || carrying !== null || managing;
  // the same object as long as the theme is the same: a new one draws every control anew
  const theme = useMemo(() => themeFor(dark), [dark]);
  const over = useDrop();
  const help = useHelp((s) => s.open);
  const keys = useHelp((s) => s.keys);
  const guided = useHelp((s) => s.step >= 0);
  useEffect(() => {
    window.requestIdleCallback(() => void fetchLists(), { timeout: 500 });
    window.setTimeout(() => void fetchTheRest(), 1500);
    const stop = listenToKeys(openHelp);
    const stopPointing = helpWhatIsPointedAt();
    const wake = () => void player.wake();
    window.addEventListener('pointerdown', wake, { once: true });
    window.addEventListener('keydown', wake, { once: true });
    // after a choice with the mouse the keys go back to the bench: space plays, it does not open the list again
    const leave = (e: MouseEvent) => {
      if (e.target instanceof Element && e.target.closest('.ant-select-item-option'))
        setTimeout(() => (document.activeElement as HTMLElement | null)?.blur(), 0);
    };
    document.addEventListener('click', leave);
    return () => {
      stop();
      stopPointing();
      document.removeEventListener('click', leave);
    };
  }, []);
  // before anything draws with its colours
  useLayoutEffect(() => {
    document.documentElement.dataset.theme = dark ? 'dark' : 'light';
  }, [dark]);
  const dockOpen =
    listening || (padsOpen && (face === 'steps' || face === 'roll' || face === 'song') && !mapping);
  const dropping = useSounds((s) => s.dropping !== null);
  // a plan of samples is shown before there are lanes, too
  const empty = project !== null && project.map.lanes.length === 0 && !dropping;
  // what is tried is seen whole: its list stands beside the stage, not over it
  const bench = project !== null && !empty && !mapping && (face === 'steps' || face === 'roll');
  const ready = bench && panel === 'ready' && face === 'steps';
  const playingIn = bench && panel === 'play-in';
  const aside = ready || playingIn;
  return (
    <ConfigProvider theme={theme}>
      <div className="app">
        <ToTheStage />
        <Notices low={!dockOpen} />
        <Swatches swatches={project?.swatches ?? []} />
        <div
          className={`bench ${managing || ((face === 'sounds' || mapping) && !empty) ? 'sounds' : ''} ${face === 'sounds' && cutting && !mapping ? 'cutting' : ''} ${aside ? 'aside' : ''}`}
        >
          <Header help={openHelp} />
          {project && managing && <ProjectsFace project={project} />}
          {project && empty && !managing && <Empty project={project} />}
          {project && !empty && carrying && <CarryFace project={project} carrying={carrying} />}
          {project && !empty && editing && !carrying && !managing && <MapFace project={project} />}
          {project && !empty && !mapping && face === 'steps' && pattern && (
            <StepsFace project={project} pattern={pattern} />
          )}
          {project && !empty && !mapping && face === 'roll' && pattern && (
            <RollFace key={patternId} project={project} pattern={pattern} />
          )}
          {project && !empty && !mapping && face === 'break' && <BreakFace project={project} />}
          {project && !empty && !mapping && face === 'sounds' && <SoundsFace project={project} />}
          {project && !empty && !mapping && face === 'song' && <SongFace project={project} />}
          {project && !empty && !mapping && face === 'mix' && <MixFace project={project} />}
          {project && <Dock project={project} open={dockOpen} />}
          {project && !empty && !mapping && shelfOpen && <ShelfDrawer project={project} />}
          {project && !empty && !mapping && panel === 'patterns' && <PatternsDrawer project={project} />}
          {ready && <ReadyDrawer project={project} />}
          {playingIn && <PlayInDrawer project={project} />}
        </div>
        {project && <OneStroke project={project} />}
        <Importing />
        {keys && <KeySheet open close={closeKeys} />}
        {help && <HelpDrawer />}
        {guided && project && <Guide />}
        {over && (
          <div className="drop">
            {face === 'sounds'
              ? 'Drop samples, folders or a kit: you see where they go before anything changes'
              : 'Drop a recording to hear its hits, a MIDI file to make it a pattern, or samples, folders and kits for the pads'}
          </div>
        )}
      </div>
    </ConfigProvider>
  );
}
