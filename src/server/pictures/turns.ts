/** One thing at a time for each picture, in the order asked for, whatever of it is in memory. */
export class Turns {
  private readonly last = new Map<string, Promise<unknown>>();

  run<T>(id: string, work: () => Promise<T>): Promise<T> {
    const before = this.last.get(id) ?? Promise.resolve();
    const mine = before.then(work);
    // What failed is told to whoever asked for it; the next one begins all the same.
    const ended: Promise<void> = mine.then(
      () => this.leave(id, ended),
      () => this.leave(id, ended),
    );
    this.last.set(id, ended);
    return mine;
  }

  private leave(id: string, ended: Promise<unknown>): void {
    if (this.last.get(id) === ended) this.last.delete(id);
  }
}
