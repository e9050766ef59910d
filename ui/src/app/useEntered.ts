import { useEffect, useRef } from 'react';

/** What lies over the bench is entered when it opens and left to where one came from: enter moves the focus in. */
export function useEntered(enter: () => void) {
  const came = useRef(document.activeElement);
  const first = useRef(enter);
  useEffect(() => {
    const back = came.current;
    first.current();
    return () => {
      if (back instanceof HTMLElement && back.isConnected && back !== document.body) back.focus();
    };
  }, []);
}
