// Of several answers that are on their way only the newest counts.
export class Latest {
  private newest = 0;

  /** Waits for an answer; undefined when a newer one was asked for meanwhile, or all were let go. */
  async of<T>(answer: Promise<T>): Promise<T | undefined> {
    const mine = ++this.newest;
    try {
      const value = await answer;
      return mine === this.newest ? value : undefined;
    } catch (e) {
      if (mine !== this.newest) return undefined; // nobody waits for it any more
      throw e;
    }
  }

  /** Lets go of what is on its way. */
  forget() {
    this.newest++;
  }
}
