// Which time through the loop what is played belongs to, repeated from the core; held to the core's cases.

/** From a strike's seconds since the loop's first line was played for the first time, the loop's length and a cell of its lane, in
 * seconds: what leads into a time through by less than half a cell is its own. −1 while it is counted in. */
export function through(sinceS: number, lengthS: number, cellS: number): number {
  const at = sinceS + cellS / 2;
  return at < 0 ? -1 : Math.floor(at / lengthS);
}
