// Faces and drawers that are fetched when they are first opened, or before, once the bench is at rest.
import { type ComponentType, useEffect, useState } from 'react';
import { say } from './state';

const waiting: (() => Promise<unknown>)[] = [];

/** Says that code could not be fetched. */
export function notFetched() {
  say({
    title: 'A part of the bench could not be fetched',
    detail: 'Is it still running? Start it again and reload this page; nothing saved is lost.',
    error: true,
  });
}

/** A component whose code is fetched when it is first shown. What cannot be fetched is said, and tried again when it is shown again. */
export function lazily<P extends object>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  let loaded: ComponentType<P> | null = null;
  const get = async () => {
    loaded = await load();
  };
  waiting.push(get);
  return function Lazily(props: P) {
    const [, show] = useState(loaded !== null);
    useEffect(() => {
      let here = true;
      if (!loaded)
        get()
          .then(() => here && show(true))
          .catch(notFetched);
      return () => {
        here = false;
      };
    }, []);
    const Loaded = loaded;
    return Loaded ? <Loaded {...props} /> : <span data-loading hidden />;
  };
}

/** Fetches everything that is shown lazily, one after another, while nothing else is done: opening it then takes no time. */
export async function fetchTheRest() {
  for (const get of waiting) {
    // oxlint-disable-next-line no-await-in-loop -- one after another, so that sounds come first
    await get().catch(() => undefined);
    // oxlint-disable-next-line no-await-in-loop
    await new Promise((r) => window.requestIdleCallback(r, { timeout: 2000 }));
  }
}
