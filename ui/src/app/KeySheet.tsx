// Every key in one sheet: searched, and changed to the person's own.
import { SearchOutlined } from '@ant-design/icons';
import { Button, Input, Modal } from 'antd';
import { memo, useEffect, useState } from 'react';
import { actions, chooseKey, chordOf, conflict, keysOf, ownKeysAgain, useKeys, type Where } from './actions';

const places: Record<Where, string> = {
  everywhere: 'Everywhere',
  steps: 'In the Steps, once they have the focus (Tab or a click)',
  roll: 'In the Roll, once it has the focus',
  break: 'In Break',
  mix: 'In Mix',
  song: 'In Song',
};

/** What no other key can do. */
const fixed: [keys: string, does: string][] = [
  ['Z X C V B N', 'strike kick, snare, clap, rim, closed hat, open hat; with Shift at 127'],
  ['A S D F G H', 'strike the other six pads; with a bank of sixteen J K too'],
  ['↑ ↓ Enter Esc', 'while something is tried: the next, the one before, keep it, put it back'],
  [
    'drag a hit',
    'up and down its velocity; sideways its lean (Shift: the whole lane’s); Alt moves, Ctrl copies it',
  ],
  ['right drag', 'in Steps clears; in the Roll a box round hits, also from a hit (a right click erases)'],
  ['wheel', 'in the Roll: with Ctrl nearer and farther, with Shift sideways'],
  ['Ctrl+drag', 'in the Roll, on paper: a free line round hits (lasso); on a hit: copies'],
];

const words: Record<string, string> = {
  ArrowLeft: '←',
  ArrowRight: '→',
  ArrowUp: '↑',
  ArrowDown: '↓',
};
const spelled = (chord: string) => chord.replace(/Arrow\w+/, (k) => words[k] ?? k);

export const KeySheet = memo(function KeySheet({ open, close }: { open: boolean; close: () => void }) {
  const own = useKeys((s) => s.own);
  const [text, setText] = useState('');
  const [asking, setAsking] = useState('');
  const [taken, setTaken] = useState('');
  useEffect(() => {
    if (asking === '') return undefined;
    const a = actions.find((x) => `${x.where} ${x.id}` === asking);
    const listen = (e: KeyboardEvent) => {
      if (/^(Shift|Control|Alt|Meta|AltGraph)$/.test(e.key) || !a) return;
      e.preventDefault();
      e.stopPropagation();
      if (e.key === 'Escape') {
        setAsking('');
        return;
      }
      const chord = chordOf(e);
      const other = conflict(a, chord);
      if (other !== '') {
        setTaken(`${spelled(chord)} is taken: ${other}`);
        return;
      }
      chooseKey(a, chord);
      setAsking('');
    };
    window.addEventListener('keydown', listen, true);
    return () => window.removeEventListener('keydown', listen, true);
  }, [asking]);
  const sought = text.toLowerCase();
  const fits = (does: string, keys: string) => `${does} ${keys}`.toLowerCase().includes(sought);
  const found = actions.filter((a) => fits(a.does, keysOf(a).join(' ')));
  const still = fixed.filter(([keys, does]) => fits(does, keys));
  return (
    <Modal open={open} onCancel={close} footer={null} title="Keys" width={680} className="keysheet">
      <div className="row">
        <Input
          prefix={<SearchOutlined />}
          placeholder="What it does, or a key"
          value={text}
          onChange={(e) => setText(e.target.value)}
          allowClear
          autoFocus
        />
        <span className="lab">{found.length + still.length} found</span>
        <Button disabled={Object.keys(own).length === 0} onClick={ownKeysAgain}>
          All as they were
        </Button>
      </div>
      <p className="lab">
        {asking === ''
          ? 'Press a key’s name to choose another one.'
          : taken || 'Now press the key you want; Escape leaves it as it is.'}
      </p>
      <div className="keylist">
        {(Object.keys(places) as Where[]).map((where) => {
          const list = found.filter((a) => a.where === where);
          if (list.length === 0) return null;
          return (
            <section key={where}>
              <h3>{places[where]}</h3>
              <div className="keygrid">
                {list.map((a) => {
                  const id = `${a.where} ${a.id}`;
                  return (
                    <div key={id} className="row">
                      <button
                        type="button"
                        className={`key ${asking === id ? 'on' : ''} ${own[id] ? 'own' : ''}`}
                        data-key={id}
                        title={
                          own[id]
                            ? 'Your own key; double-click gives it its first one again'
                            : 'Choose another key'
                        }
                        onClick={() => {
                          setTaken('');
                          setAsking(id);
                        }}
                        onDoubleClick={() => {
                          chooseKey(a, null);
                          setAsking('');
                        }}
                      >
                        {asking === id ? '…' : keysOf(a).map(spelled).join('  ')}
                      </button>
                      <span>{a.does}</span>
                    </div>
                  );
                })}
              </div>
            </section>
          );
        })}
        {still.length > 0 && (
          <section>
            <h3>Pads, pointer, and while something is tried</h3>
            <div className="keygrid">
              {still.map(([keys, does]) => (
                <div key={keys} className="row">
                  <span className="key fixed">{keys}</span>
                  <span>{does}</span>
                </div>
              ))}
            </div>
          </section>
        )}
      </div>
    </Modal>
  );
});
