/** Something that takes room in memory. */
export interface Sized {
  bytes(): number;
}

interface Held<T> {
  opening: Promise<T>;
  value?: T;
  /** how many are at work with it */
  users: number;
  usedAt: number;
}

/**
 * Things that are costly to open, kept open while there is room. What somebody is at work with is never closed, however much
 * room it takes; of the rest, what was not used for longest goes first.
 */
export class Cache<T extends Sized> {
  private readonly held = new Map<string, Held<T>>();
  private clock = 0;

  constructor(
    private readonly open: (id: string) => Promise<T>,
    private readonly mostBytes: number,
  ) {}

  /** Works with a thing, which is opened if it is not, and stays open until the work has ended. */
  async use<R>(id: string, work: (value: T) => Promise<R> | R): Promise<R> {
    let held = this.held.get(id);
    if (!held) {
      held = { opening: this.open(id), users: 0, usedAt: 0 };
      this.held.set(id, held);
    }
    held.users++;
    held.usedAt = ++this.clock;
    try {
      held.value = await held.opening;
      return await work(held.value);
    } catch (error) {
      if (!held.value && this.held.get(id) === held) this.held.delete(id);
      throw error;
    } finally {
      held.users--;
      this.trim();
    }
  }

  /** Those that are open. */
  opened(): T[] {
    return [...this.held.values()].flatMap((h) => (h.value ? [h.value] : []));
  }

  /** Lets go of one that will not be asked for again. */
  forget(id: string): void {
    this.held.delete(id);
  }

  private trim(): void {
    let bytes = this.opened().reduce((sum, value) => sum + value.bytes(), 0);
    const idle = [...this.held].filter(([, h]) => h.users === 0 && h.value).sort(([, a], [, b]) => a.usedAt - b.usedAt);
    for (const [id, { value }] of idle) {
      if (bytes <= this.mostBytes) return;
      bytes -= value!.bytes();
      this.held.delete(id);
    }
  }
}
