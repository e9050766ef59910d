// Voices on their way: a few at once, what is struck first, then what sounds soonest, then the rest of the kit.

/** Browsers have six requests under way to one place. */
const atOnce = 6;

interface Coming {
  resolve: () => void;
  reject: (why: unknown) => void;
  urgent: boolean;
}

export class Voices {
  private coming = new Map<string, Coming>();
  private promised = new Map<string, Promise<void>>();
  private begun = new Set<string>();
  private soonest = new Map<string, number>();

  constructor(private fetchOne: (id: string) => Promise<void>) {}

  /** When voices sound first, s: those that are not on their way yet are brought in that order. */
  expect(cues: readonly { voice: string; at: number }[]) {
    this.soonest = new Map();
    for (const c of cues) {
      const at = this.soonest.get(c.voice);
      if (at === undefined || c.at < at) this.soonest.set(c.voice, c.at);
    }
  }

  /** Brings voices; each is asked for once. */
  bring(ids: readonly string[], urgent = false): Promise<void[]> {
    const all = ids.map((id) => {
      const known = this.promised.get(id);
      const coming = this.coming.get(id);
      if (known && coming) {
        coming.urgent ||= urgent;
        return known;
      }
      const promise = new Promise<void>((resolve, reject) => {
        this.coming.set(id, { resolve, reject, urgent });
      });
      this.promised.set(id, promise);
      return promise;
    });
    // not before the caller has said all it wants
    queueMicrotask(() => this.next());
    return Promise.all(all);
  }

  private next() {
    while (this.begun.size < atOnce) {
      let best: [id: string, rank: number] | null = null;
      for (const [id, c] of this.coming) {
        if (this.begun.has(id)) continue;
        const rank = c.urgent ? -1 : (this.soonest.get(id) ?? Infinity);
        if (best === null || rank < best[1]) best = [id, rank];
      }
      if (best === null) return;
      void this.one(best[0]);
    }
  }

  private async one(id: string) {
    const c = this.coming.get(id);
    this.begun.add(id);
    try {
      await this.fetchOne(id);
      c?.resolve();
    } catch (e) {
      c?.reject(e);
    } finally {
      this.begun.delete(id);
      this.coming.delete(id);
      this.promised.delete(id);
      this.next();
    }
  }
}
