// Following another machine's MIDI clock: 24 clocks a quarter note come with jitter, and are smoothed to where they were meant.

export const clocksAQuarter = 24;

/** Over how many clocks the line through them is remembered: six quarter notes. */
const memory = 6 * clocksAQuarter;

/** A gap in which so many clocks are missing begins anew. */
const lost = 4;

/** The least-squares line through the clocks, its memory growing to six quarter notes (Morrison 1969, the expanding-memory polynomial filter of
 * the first degree; from memory). */
export class ClockFollower {
  private n = 0;
  private at = 0;
  private periodMS = 0;

  /** A clock that came at a moment, ms; returns the moment it was meant for. */
  feed(timeMS: number): number {
    if (this.n > 1 && Math.abs(timeMS - this.at - this.periodMS) > lost * this.periodMS) this.reset();
    this.n = Math.min(memory, this.n + 1);
    const { n } = this;
    if (n === 1) {
      this.at = timeMS;
      return timeMS;
    }
    const off = timeMS - this.at - this.periodMS;
    this.at += this.periodMS + ((2 * (2 * n - 1)) / (n * (n + 1))) * off;
    this.periodMS += (6 / (n * (n + 1))) * off;
    return this.at;
  }

  /** The tempo, quarter notes a minute; 0 before two clocks came. */
  get bpm(): number {
    return this.periodMS > 0 ? 60000 / (this.periodMS * clocksAQuarter) : 0;
  }

  /** Whether two quarter notes were heard, so that the tempo can be believed. */
  get sure(): boolean {
    return this.n >= 2 * clocksAQuarter;
  }

  reset() {
    this.n = 0;
    this.periodMS = 0;
  }
}
