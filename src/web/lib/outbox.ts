import { delMany, getMany, keys, set } from 'idb-keyval';
import { RefusedError } from './http.ts';

/** Something that changes a picture, as it is sent. */
export interface Letter {
  /** names it, so that the server does it once even if it comes again because its answer was lost; sorts by time */
  once: string;
  what: 'edits' | 'undo' | 'redo' | 'fills' | 'trace' | 'mesh';
  body?: unknown;
}

/** Where letters wait that are not answered, so that they outlive the window. */
export interface Drawer {
  all(): Promise<Letter[]>;
  keep(letter: Letter): Promise<void>;
  forget(onces: string[]): Promise<void>;
}

/** How saving stands. */
export interface Standing {
  state: 'saved' | 'saving' | 'failed';
  /** how much is not answered yet */
  waiting: number;
  /** what the server said no to, in its words */
  refusal: string | null;
}

let written = 0;

/** A name for a letter, which sorts after all before it. */
export function nextName(): string {
  const chance = Array.from(crypto.getRandomValues(new Uint8Array(6)), (v) => v.toString(16).padStart(2, '0')).join('');
  return Date.now().toString(36).padStart(9, '0') + (written++).toString(36).padStart(5, '0') + chance;
}

interface Waiting {
  letter: Letter;
  resolve: (answer: unknown) => void;
}

/** The row that a letter is about, and whether it makes it. */
function rowOf({ body }: Letter): { id?: string; made: boolean } {
  const edit = body as { type?: string; id?: string } | undefined;
  return { id: edit?.id, made: edit?.type === 'placeRepair' };
}

/**
 * Sends what changes a picture, one letter after another, again and again until it is answered. Refusals (the server understood
 * and said no) are told and not sent again, nor is what follows about a row that was not made.
 */
export class Outbox {
  private readonly queue: Waiting[] = [];
  /** letters of this window that are answered: the drawer may hold them a moment longer */
  private readonly settled = new Set<string>();
  private readonly listeners = new Set<() => void>();
  private going = false;
  private wake: (() => void) | null = null;
  private now: Standing = { state: 'saved', waiting: 0, refusal: null };

  constructor(
    private readonly send: (letter: Letter) => Promise<unknown>,
    private readonly drawer: Drawer,
    private readonly onRefused: () => void = () => undefined,
    /** ms until the first further attempt; it doubles up to 16 times that */
    private readonly patience = 500,
  ) {}

  get standing(): Standing {
    return this.now;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** @returns the answer, or null where it was refused */
  post<T>(what: Letter['what'], body?: unknown, once = nextName()): Promise<T | null> {
    const letter = { once, what, body };
    void this.drawer.keep(letter).catch(() => undefined);
    return this.put(letter) as Promise<T | null>;
  }

  /** Takes up what an earlier window left unanswered. @param onTaken hears of each before it is sent, and of its answer */
  async restore(onTaken?: (letter: Letter, answer: Promise<unknown>) => void): Promise<void> {
    const kept = await this.drawer.all().catch(() => []);
    const known = new Set([...this.settled, ...this.queue.map((w) => w.letter.once)]);
    const left = kept.filter((l) => !known.has(l.once));
    left.sort((a, b) => (a.once < b.once ? -1 : 1));
    for (const letter of left) {
      const answer = this.put(letter);
      onTaken?.(letter, answer);
    }
  }

  /** Tries again at once, as when the connection is back. */
  readonly retry = (): void => this.wake?.();

  readonly dismiss = (): void => this.say({ refusal: null });

  private say(change: Partial<Standing>): void {
    this.now = { ...this.now, ...change, waiting: this.queue.length };
    this.listeners.forEach((l) => l());
  }

  private put(letter: Letter): Promise<unknown> {
    const answer = new Promise<unknown>((resolve) => this.queue.push({ letter, resolve }));
    this.say({ state: this.now.state === 'failed' ? 'failed' : 'saving' });
    if (!this.going) void this.go();
    return answer;
  }

  private async go(): Promise<void> {
    this.going = true;
    for (let attempt = 0; this.queue.length;) {
      const [{ letter, resolve }] = this.queue;
      try {
        const answer = await this.send(letter);
        attempt = 0;
        this.settle(1);
        resolve(answer);
      } catch (error) {
        if (error instanceof RefusedError && error.status < 500) {
          attempt = 0;
          // What was to be done to a row that is not made cannot be done either.
          const row = rowOf(letter);
          const lost = row.made && row.id ? this.queue.slice(1).filter((w) => rowOf(w.letter).id === row.id) : [];
          for (const w of lost) this.queue.splice(this.queue.indexOf(w), 1);
          this.settle(1, lost);
          this.say({ refusal: error.message });
          this.onRefused();
          [{ resolve }, ...lost].forEach((w) => w.resolve(null));
          continue;
        }
        // The server says what is wrong, such as that its disk is full: people can do something about that.
        this.say({ state: 'failed', ...(error instanceof RefusedError && { refusal: error.message }) });
        await new Promise<void>((again) => {
          const timer = setTimeout(again, this.patience * 2 ** Math.min(4, attempt++));
          this.wake = () => {
            clearTimeout(timer);
            again();
          };
        });
        this.wake = null;
      }
    }
    this.going = false;
  }

  /** The first letters are answered, and some others gone. */
  private settle(count: number, lost: readonly Waiting[] = []): void {
    const done = [...this.queue.splice(0, count), ...lost].map((w) => w.letter.once);
    for (const once of done) this.settled.add(once);
    void this.drawer.forget(done).catch(() => undefined);
    this.say({ state: this.queue.length ? 'saving' : 'saved' });
  }
}

/** The letters of one picture in the browser's own database, an entry each: several windows may hold some. */
export function browserDrawer(pictureId: string): Drawer {
  const under = `unsent/${pictureId}/`;
  return {
    async all() {
      const own = (await keys<string>()).filter((k) => k.startsWith(under)).sort();
      return (await getMany<Letter>(own)).filter((l) => l !== undefined);
    },
    keep: (letter) => set(under + letter.once, letter),
    forget: (onces) => delMany(onces.map((once) => under + once)),
  };
}
