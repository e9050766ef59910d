// Hearing a recording again: what is listened to, and what that changes, before it is taken.
import { Button, Checkbox, Select } from 'antd';
import { Choice } from '../app/Choice';
import { useState } from 'react';
import type { Recording } from '../api/client';
import { type HowAgain, setHearing, useBench } from '../app/state';
import { ear } from '../model/constants.gen';
import { endAgain, lookAgain, useBreak } from './state';

const count = (n: number, one: string, several: string) => `${n} ${n === 1 ? one : several}`;

/** What is listened to, and whether through other music. */
export function ListenTo({ recording, done }: { recording: Recording; done: () => void }) {
  const h = recording.heard;
  const [how, setHow] = useState<HowAgain>({ channel: h.channel, drums: h.drums ?? false });
  const [busy, setBusy] = useState(false);
  const part = useBench((s) => s.hearing.part);
  return (
    <>
      <span className="lab">Listen to</span>
      <Select
        size="small"
        aria-label="Channel"
        value={how.channel ?? ''}
        options={[
          { value: '', label: 'both channels' },
          { value: 'left', label: 'left' },
          { value: 'right', label: 'right' },
          { value: 'mid', label: 'what both share' },
          { value: 'side', label: 'what they do not share' },
        ]}
        onChange={(c: NonNullable<HowAgain['channel']> | '') =>
          setHow({ drums: how.drums ?? false, ...(c === '' ? {} : { channel: c }) })
        }
      />
      <span className="lab">Other music</span>
      <Checkbox
        checked={how.drums ?? false}
        title="What is held, as basses, chords and voices are, is left out before the drums are heard"
        onChange={(e) => setHow({ ...how, drums: e.target.checked })}
      >
        only the drums
      </Checkbox>
      <span />
      <Button
        size="small"
        type="primary"
        data-id="hear-again"
        loading={busy}
        title="Shows what hearing again would change; your corrections are kept"
        onClick={() => {
          setBusy(true);
          void lookAgain(recording, how).finally(() => {
            setBusy(false);
            done();
          });
        }}
      >
        Hear again
      </Button>
      <span className="lab">Play</span>
      <Choice
        name="What of the recording is played"

        data-id="play-part"
        value={part}
        options={[
          { value: '', label: 'all of it' },
          { value: 'drums', label: 'the drums', title: 'What is struck in the recording' },
          { value: 'left', label: 'the rest', title: 'What is left out when only the drums are heard' },
        ]}
        onChange={(v) => setHearing({ part: v as typeof part })}
      />
    </>
  );
}

/** What hearing again changed, while it is not yet taken. */
export function AgainBar({ recording }: { recording: Recording }) {
  const again = useBreak((s) => (s.again?.of === recording.id ? s.again : null));
  const revision = useBench((s) => s.project?.revision);
  if (!again) return null;
  const c = again.heard.changes;
  const words = [
    count(c.new?.length ?? 0, 'new hit', 'new hits'),
    count(c.gone?.length ?? 0, 'gone', 'gone'),
    `${c.other?.length ?? 0} on another drum`,
    `${c.same?.length ?? 0} as before`,
    count(c.carried?.length ?? 0, 'correction of yours kept', 'corrections of yours kept'),
  ];
  return (
    <div className="againbar" data-id="again-bar" role="status">
      <b>Heard again</b>
      <span>{words.join(' · ')}</span>
      <span className="grow" />
      <Choice
        name="Which hearing is shown"

        value={again.shown}
        options={[
          { value: 'now', label: 'before', title: 'As it is; what goes is struck through' },
          { value: 'again', label: 'again', title: 'As it would be; what is new is ringed' },
        ]}
        onChange={(v) => useBreak.setState({ again: { ...again, shown: v as 'now' | 'again' } })}
      />
      <Button size="small" onClick={() => endAgain(false)} data-id="again-leave">
        Leave it
      </Button>
      <Button
        size="small"
        type="primary"
        data-id="again-take"
        title={revision === again.revision ? 'One step of the history' : 'With what you changed since'}
        onClick={() => endAgain(true)}
      >
        Take it
      </Button>
      <span className="muted hint">
        {again.shown === 'again'
          ? 'Ringed: new, or on another drum.'
          : 'As it is now; struck through: not heard any more.'}
      </span>
    </div>
  );
}

/** Offers to hear a recording again that earlier ears heard. */
export function EarlierEars({ recording }: { recording: Recording }) {
  const busy = useBreak((s) => s.again !== null);
  if ((recording.heard.ear ?? 0) >= ear || busy) return null;
  return (
    <Button
      size="small"
      data-id="earlier-ears"
      title="An earlier version heard this break. Hear it again and compare; your corrections are kept."
      onClick={() =>
        void lookAgain(recording, { channel: recording.heard.channel, drums: recording.heard.drums ?? false })
      }
    >
      Hear again…
    </Button>
  );
}
