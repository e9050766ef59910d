import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css';
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app/App';
import { begin, explain, say } from './app/state';
import './record/record.css';
import './song/song.css';
import './mix/mix.css';
import './help/help.css';
import './app/tokens.css';
import './app/app.css';
import './lanes/lanes.css';
import './sounds/sounds.css';
import './shelf/shelf.css';
import './maps/maps.css';
import './steps/steps.css';
import './patterns/patterns.css';
import './break/break.css';
import './projects/projects.css';
import './app/narrow.css';

const draw = () =>
  createRoot(document.getElementById('root') as HTMLElement).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
// drawn once, with what is opened, while its sounds are on their way; without it when that takes long
const opened = new Promise<void>((done) => {
  begin(done).catch((e: unknown) => {
    say(explain(e));
    done();
  });
});
void Promise.race([opened, new Promise((late) => setTimeout(late, 400))]).then(draw);
