// Help beside the stage: searched, by kind, and pointing at what it speaks of.
import { CloseOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Input, type InputRef } from 'antd';
import { Choice } from '../app/Choice';
import { useCallback, useMemo, useRef, useState } from 'react';
import { actions, keysOf, type Where } from '../app/actions';
import { chooseFace } from '../app/state';
import { entries } from './entries';
import { useEntered } from '../app/useEntered';
import { found, Pointer } from './Pointer';
import { closeHelp, goToStep, type Show, useHelp } from './state';
import { Told } from './Guide';

const kinds = ['all', 'how', 'keys', 'words', 'marks', 'formats'] as const;
type Kind = (typeof kinds)[number];
const heads: Record<Exclude<Kind, 'all'>, string> = {
  how: 'How do I',
  keys: 'Keys',
  words: 'Words',
  marks: 'Marks',
  formats: 'Formats',
};

interface Row {
  of: Exclude<Kind, 'all'>;
  title: string;
  text: string;
  show?: Show;
  /** of a key: where it works */
  where?: Where;
}

/** Text in which what is sought is underlined. */
function Marked({ text, sought }: { text: string; sought: string }) {
  const at = sought === '' ? -1 : text.toLowerCase().indexOf(sought);
  if (at < 0) return <>{text}</>;
  return (
    <>
      {text.slice(0, at)}
      <mark>{text.slice(at, at + sought.length)}</mark>
      {text.slice(at + sought.length)}
    </>
  );
}

const rows: Row[] = [
  ...entries,
  ...actions.map((a) => ({
    of: 'keys' as const,
    title: a.does,
    text: keysOf(a).join(' or '),
    where: a.where,
  })),
];

export function HelpDrawer() {
  const [text, setText] = useState('');
  const [kind, setKind] = useState<Kind>('all');
  const shown = useHelp((s) => s.shown);
  const field = useRef<InputRef>(null);
  const line = useRef<HTMLElement | null>(null);
  useEntered(() => field.current?.focus());
  const sought = text.trim().toLowerCase();
  const list = useMemo(
    () =>
      rows.filter(
        (r) => (kind === 'all' || r.of === kind) && `${r.title} ${r.text}`.toLowerCase().includes(sought),
      ),
    [kind, sought],
  );
  const targets = useCallback(() => (shown ? found(shown.show.at) : []), [shown]);
  return (
    <>
      {shown && <Pointer from={line} targets={targets} />}
      <aside
        className="help"
        aria-label="Help"
        data-id="help"
        onKeyDown={(e) => {
          if (e.key !== 'Escape') return;
          e.stopPropagation();
          if (text === '') closeHelp();
          else setText('');
        }}
      >
        <header>
          <div className="row">
            <h2>Help</h2>
            <span className="grow" />
            <Button
              type="text"
              size="small"
              aria-label="Close help"
              icon={<CloseOutlined />}
              onClick={closeHelp}
            />
          </div>
          <Input
            ref={field}
            prefix={<SearchOutlined />}
            suffix={<span className="lab">{list.length} found</span>}
            aria-label="What you look for"
            placeholder="What you look for"
            data-id="help-search"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <Choice
            name="Kind of help"

            value={kind}
            options={[...kinds]}
            onChange={setKind}
          />
        </header>
        <div className="found">
          {list.length === 0 && <h3>Nothing of that name. Try one word, or another kind.</h3>}
          {(Object.keys(heads) as Exclude<Kind, 'all'>[]).map((of) => {
            const some = list.filter((r) => r.of === of);
            if (some.length === 0) return null;
            return (
              <section key={of}>
                <h3>
                  {heads[of]} <span className="lab">{some.length}</span>
                </h3>
                {some.map((r) => {
                  const on = shown?.title === r.title;
                  const { show } = r;
                  return (
                    <article
                      key={`${r.title} ${r.text} ${r.where ?? ''}`}
                      className={on ? 'on' : ''}
                      ref={(el) => {
                        if (on && el) line.current = el;
                      }}
                    >
                      <b>
                        <Marked text={r.title} sought={sought} />
                        {r.where && r.where !== 'everywhere' && <span className="lab"> in {r.where}</span>}
                      </b>
                      {of === 'keys' ? <kbd>{r.text}</kbd> : null}
                      {show && (
                        <Button
                          size="small"
                          type={on ? 'primary' : 'default'}
                          onClick={() => {
                            if (show.face) chooseFace(show.face);
                            useHelp.setState({ shown: on ? null : { title: r.title, show } });
                          }}
                        >
                          {on ? 'Shown' : 'Show'}
                        </Button>
                      )}
                      {of !== 'keys' && (
                        <p>
                          {sought === '' ? (
                            <Told text={r.text} />
                          ) : (
                            <Marked text={r.text.replace(/[*`]/g, '')} sought={sought} />
                          )}
                        </p>
                      )}
                    </article>
                  );
                })}
              </section>
            );
          })}
        </div>
        <footer>
          <Button size="small" data-id="begin-guide" onClick={() => goToStep(0)}>
            Begin the guided path
          </Button>
          <span className="lab">six steps</span>
          <span className="grow" />
          <Button
            size="small"
            data-id="all-keys"
            title="Every key in one sheet, to change"
            onClick={() => useHelp.setState({ open: false, shown: null, keys: true })}
          >
            All keys…
          </Button>
        </footer>
      </aside>
    </>
  );
}
