// The guided path's card: where one is, what to do, what comes next. It goes on by itself when a step is done.
import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { Fragment, useCallback, useEffect, useRef, useState } from 'react';
import { useBench } from '../app/state';
import { hex, Poly } from '../lanes/marks';
import { Pointer } from './Pointer';
import { steps } from './path';
import { goToStep, leaveGuide, useHelp } from './state';

/** Words with names in bold and keys in frames. */
export function Told({ text }: { text: string }) {
  return (
    <>
      {text.split(/(\*[^*]+\*|`[^`]+`)/).map((part, i) => {
        const key = `${i} ${part}`;
        if (part.startsWith('*')) return <b key={key}>{part.slice(1, -1)}</b>;
        if (part.startsWith('`')) return <kbd key={key}>{part.slice(1, -1)}</kbd>;
        return <Fragment key={key}>{part}</Fragment>;
      })}
    </>
  );
}

export function Guide() {
  const at = useHelp((s) => s.step);
  const done = useHelp((s) => s.done);
  const bench = useBench();
  const began = useHelp((s) => s.began);
  const card = useRef<HTMLDivElement>(null);
  const step = steps[at];
  const share = step?.done(bench, began) ?? 0;
  const targets = useCallback(() => steps[at]?.targets(useBench.getState()) ?? [], [at]);
  const [finished, setFinished] = useState(false);
  useEffect(() => {
    if (share < 1) return undefined;
    const timer = window.setTimeout(() => {
      useHelp.setState((s) => ({ done: [...new Set([...s.done, at])] }));
      if (at + 1 < steps.length) goToStep(at + 1);
      else setFinished(true);
    }, 900);
    return () => window.clearTimeout(timer);
  }, [share, at]);
  useEffect(() => {
    const leave = (e: KeyboardEvent) => e.key === 'Escape' && !e.defaultPrevented && leaveGuide();
    window.addEventListener('keydown', leave);
    return () => window.removeEventListener('keydown', leave);
  }, []);
  if (!step) return null;
  return (
    <>
      {!finished && <Pointer from={card} targets={targets} />}
      <section className="guide" ref={card} aria-label="Guided path" data-id="guide">
        <ol>
          {steps.map((s, i) => (
            <li key={s.name} aria-current={i === at ? 'step' : undefined}>
              <button type="button" title={s.title} onClick={() => goToStep(i)}>
                <svg width={24} height={22} aria-hidden="true">
                  <Poly
                    pts={hex(12, 11, 22, 19)}
                    fill={done.includes(i) ? 'var(--ink)' : 'var(--paper-raised)'}
                    stroke={i <= at || done.includes(i) ? 'var(--ink)' : 'var(--border)'}
                    strokeWidth={1.5}
                  />
                  {i === at && !done.includes(i) && (
                    <path d="M1.500 11h21l-5.200 8.500h-10.600z" fill="var(--ink)" />
                  )}
                  {done.includes(i) && (
                    <path d="M8 11l3 3 5-6" fill="none" stroke="var(--paper)" strokeWidth={2} />
                  )}
                  {!done.includes(i) && i !== at && (
                    <text x={12} y={15} textAnchor="middle">
                      {i + 1}
                    </text>
                  )}
                </svg>
                {i === at ? <b>{s.name}</b> : s.name}
              </button>
            </li>
          ))}
        </ol>
        <Button
          type="text"
          size="small"
          className="shut"
          aria-label="Leave the guided path"
          title="Leave; Help (?) brings it back (Esc)"
          icon={<CloseOutlined />}
          onClick={leaveGuide}
        />
        <div role="status">
          {finished ? (
            <>
              <h2>From sound to song</h2>
              <p>
                That was all of it. Help (<kbd>?</kbd>) answers the rest; export stands in Song and in Mix.
              </p>
            </>
          ) : (
            <>
              <h2>
                {step.title} <span className="lab">step {at + 1} of 6, about 5 minutes in all</span>
              </h2>
              <p>
                <Told text={step.text(bench)} />
              </p>
            </>
          )}
        </div>
        <div className="row">
          {finished ? (
            <Button size="small" type="primary" onClick={leaveGuide}>
              Done
            </Button>
          ) : (
            <>
              <Button size="small" onClick={() => step.show(bench)}>
                Show me
              </Button>
              <Button
                size="small"
                data-id="skip-step"
                onClick={() => (at + 1 < steps.length ? goToStep(at + 1) : leaveGuide())}
              >
                Skip this step
              </Button>
              {at > 0 && (
                <Button size="small" type="text" onClick={() => goToStep(at - 1)}>
                  Back
                </Button>
              )}
              <span className="grow" />
              <span className="lab">
                {share > 0 && share < 1 && <b>{Math.round(share * 100)} % · </b>}goes on by itself when done
              </span>
            </>
          )}
        </div>
      </section>
    </>
  );
}
