import { Refused } from '../../contract/refused.ts';
import { Cancelled } from '../work/work.ts';

/** Work that nobody waits for: each piece is owned here, so that none fails unseen and all have ended before the server does. */
export class Background {
  private readonly pieces = new Set<Promise<void>>();

  /** @param what names the work where its failure is logged */
  run(what: string, work: () => Promise<unknown>): void {
    const piece: Promise<void> = Promise.resolve()
      .then(work)
      .then(
        () => undefined,
        (error: unknown) => {
          // Cancelled, or its picture was removed meanwhile: whoever did that knows.
          const expected = error instanceof Cancelled || (error instanceof Refused && error.status === 404);
          if (!expected) console.error(`${what}:`, error instanceof Refused ? error.message : error);
        },
      )
      .finally(() => this.pieces.delete(piece));
    this.pieces.add(piece);
  }

  /** Resolves when all of it has ended, also what it began itself. */
  async ended(): Promise<void> {
    while (this.pieces.size) await Promise.all(this.pieces);
  }
}
