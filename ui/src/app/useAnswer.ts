import { useEffect, useRef, useState } from 'react';
import { Latest } from '../model/latest';
import { explain, say } from './state';

/** What the bench answered last to a question that changes, null before and when it could not. ask is held by useCallback;
 * it is asked after a pause, and what is answered to an older one is let go. */
export function useAnswer<T>(ask: (() => Promise<T>) | null, waitMS = 0): T | null {
  const [answer, setAnswer] = useState<T | null>(null);
  const asked = useRef(new Latest());
  useEffect(() => {
    if (!ask) return undefined;
    const latest = asked.current;
    const soon = setTimeout(() => {
      latest.of(ask()).then(
        (a) => a !== undefined && setAnswer(a),
        (e: unknown) => {
          setAnswer(null);
          say(explain(e));
        },
      );
    }, waitMS);
    return () => {
      clearTimeout(soon);
      latest.forget();
    };
  }, [ask, waitMS]);
  return answer;
}
