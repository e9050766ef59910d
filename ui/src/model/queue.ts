// The one way the project changes in a window: edits go to the bench one after another, each with the revision the window
// knows; what they will do is laid over every reply until their own has come.
import type { Changed, Project } from '../api/client';
import { patched } from './patch';

/** An edit on its way. */
interface Waiting {
  foreseen: (p: Project) => Project;
}

export interface QueueEvents {
  /** the project as it is to be shown now */
  show: (p: Project) => void;
  /** an edit was answered, or failed */
  pending: (count: number) => void;
  /** an edit could not be made */
  failed: (e: unknown) => void;
}

export class EditQueue {
  private base: Project | null = null;
  private waiting: Waiting[] = [];
  private tail: Promise<void> = Promise.resolve();

  constructor(private readonly events: QueueEvents) {}

  /** The project as the bench has it, as far as it has told. */
  get known(): Project | null {
    return this.base;
  }

  /** Edits not answered yet. */
  get pending(): number {
    return this.waiting.length;
  }

  /** Takes a project whole, as opened or loaded anew; one older than what is known stays away. */
  open(p: Project) {
    if (this.base?.id === p.id && this.base.revision > p.revision) return;
    this.base = p;
    this.show();
  }

  private show() {
    if (this.base) this.events.show(this.waiting.reduce((p, w) => w.foreseen(p), this.base));
  }

  /** Lays a change over what is known. False: something lies between that is not known. */
  take(c: Changed): boolean {
    const { base } = this;
    if (!base || c.revision <= base.revision) return true;
    if (c.part !== base.part) return true; // told as another part sees it: who asked loads anew
    if (c.from > base.revision) return false;
    this.base = patched(base, c);
    this.show();
    return true;
  }

  /** Makes an edit after those before it. send is given what is known when its turn comes. */
  add<T extends Changed>(
    send: (known: Project) => Promise<T>,
    foreseen: (p: Project) => Project = (p) => p,
    then: (reply: T) => void | Promise<void> = () => undefined,
  ): Promise<void> {
    const mine: Waiting = { foreseen };
    this.waiting.push(mine);
    this.events.pending(this.waiting.length);
    this.show();
    const done = () => {
      this.waiting = this.waiting.filter((w) => w !== mine);
      this.events.pending(this.waiting.length);
    };
    this.tail = this.tail.then(async () => {
      try {
        if (!this.base) return done();
        const reply = await send(this.base);
        this.waiting = this.waiting.filter((w) => w !== mine);
        if (!this.take(reply)) throw new Error('a reply from a later revision than the window knows');
        this.show(); // without what was foreseen, also when an event had told it before
        this.events.pending(this.waiting.length);
        await then(reply);
      } catch (e) {
        done();
        this.show();
        this.events.failed(e);
      }
    });
    return this.tail;
  }

  /** When every edit so far has been answered. */
  idle(): Promise<void> {
    return this.tail;
  }
}
