import { setTimeout as delay } from 'node:timers/promises';
import { Cancelled } from '../work/work.ts';

/** ms after the last stroke from which on the hand rests. */
const RESTS_MS = 2500;

/** When repairs are made again that sample what has changed: once the hand rests, and not while that is held. */
export class Updates {
  private readonly paintedAt = new Map<string, number>();
  private readonly held = new Set<string>();
  private readonly going = new Map<string, AbortController>();

  /** A stroke was painted on a picture: what is being made again would have to be made once more. */
  painted(id: string): void {
    this.paintedAt.set(id, Date.now());
    this.going.get(id)?.abort();
  }

  /** Holds updates of a picture back until they are asked for, or lets them go on. */
  hold(id: string, held: boolean): void {
    if (held) this.held.add(id);
    else this.held.delete(id);
  }

  isHeld(id: string): boolean {
    return this.held.has(id);
  }

  /** ms until the hand has rested long enough. */
  private left(id: string): number {
    return (this.paintedAt.get(id) ?? 0) + RESTS_MS - Date.now();
  }

  /** Waits until the hand rests. @returns whether it had to */
  async rested(id: string): Promise<boolean> {
    if (this.left(id) <= 0) return false;
    while (this.left(id) > 0) await delay(this.left(id), undefined, { ref: false });
    return true;
  }

  /**
   * Makes an update; painting stops it.
   * @returns whether it was made
   */
  async run(id: string, signal: AbortSignal, work: (signal: AbortSignal) => Promise<void>): Promise<boolean> {
    const own = new AbortController();
    this.going.set(id, own);
    try {
      await work(AbortSignal.any([signal, own.signal]));
      return true;
    } catch (error) {
      if (error instanceof Cancelled && own.signal.aborted && !signal.aborted) return false;
      throw error;
    } finally {
      this.going.delete(id);
    }
  }
}
