// How high the lanes are: few of them grow, so that a class can look on; many stay as they are and more of them are seen.
import { useLayoutEffect, useState } from 'react';
import { useBench } from './bench';

const least = 32;
const most = 64;
/** in a window this high they grow further, px */
const tall = 1200;
const mostWhenTall = 96;

/** The height of a lane when so many are shown, px; the whole window takes it. Below them the strip keeps so many px, among them heads of parts
 * stand in so many; a lane is as low as low at least. */
export function useRows(lanes: number, strip = 98, heads = 0, low = least): number {
  const padsOpen = useBench((s) => s.padsOpen);
  const face = useBench((s) => s.face);
  const [high, setHigh] = useState(window.innerHeight);
  useLayoutEffect(() => {
    const measure = () => setHigh(window.innerHeight);
    window.addEventListener('resize', measure);
    return () => window.removeEventListener('resize', measure);
  }, []);
  const style = getComputedStyle(document.documentElement);
  const px = (name: string) => parseFloat(style.getPropertyValue(name)) || 0;
  const dock = px(padsOpen && face !== 'break' ? '--dock-h' : '--dock-shut-h');
  const taken = ['--top-h', '--tools-h', '--crown-h', '--ruler-h'].reduce(
    (n, v) => n + px(v),
    dock + strip + heads,
  );
  const rowH = Math.min(
    high > tall ? mostWhenTall : most,
    Math.max(low, Math.floor((high - taken) / Math.max(1, lanes))),
  );
  useLayoutEffect(() => {
    const root = document.documentElement.style;
    root.setProperty('--row-h', `${rowH}px`);
    root.setProperty('--rows', String(Math.max(6, lanes + heads / rowH)));
    root.setProperty('--strip-least', `${strip}px`);
    return () => {
      root.removeProperty('--row-h');
      root.removeProperty('--rows');
      root.removeProperty('--strip-least');
    };
  }, [rowH, lanes, strip, heads]);
  return rowH;
}
