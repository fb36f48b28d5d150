import { Refused } from '../../contract/refused.ts';
import type { Background } from '../background/background.ts';
import { sentenceFor } from '../background/sentence.ts';
import type { TaskTracker } from '../background/task-tracker.ts';
import type { RunOptions } from '../work/pool.ts';
import { Cancelled } from '../work/work.ts';
import { BetterTries, type JustMade } from './better-tries.ts';
import { nextToCheck, nextToRender } from './next-to-render.ts';
import type { Pictures } from './pictures.ts';
import { TryRenderer } from './try-renderer.ts';
import { Updates } from './updates.ts';
import { withdraw, withdrawUnrendered } from './withdraw.ts';
import { renderEach } from './render-each.ts';
import { stillSeen } from './words.ts';

/** Share of treating many that rendering each once takes; the rest goes into those that show. */
const RENDERED = 0.8;

/** Renders repairs: those just made, and those that what lies beneath them made stale. */
export class Renderings {
  readonly tries: TryRenderer;
  private readonly better: BetterTries;
  /** pictures whose stale repairs are being rendered, and whether to look once more afterwards */
  private readonly settling = new Map<string, { again: boolean; ended: Promise<void> }>();
  private readonly updates = new Updates();
  private readonly batches = new Map<string, Set<Promise<void>>>();

  /** pictures of which nothing is rendered any more, since they are being removed */
  private readonly halted = new Set<string>();
  private closing = false;

  constructor(
    readonly pictures: Pictures,
    private readonly tasks: TaskTracker,
    private readonly background: Background,
  ) {
    pictures.onOpened = (id) => this.settle(id);
    this.tries = new TryRenderer(pictures);
    this.better = new BetterTries(pictures, this.tries);
    pictures.onEdited = (picture) => this.tries.stopRemoved(picture);
  }

  /** Renders, from the bottom up, chosen tries that are not current, then any try that never was rendered, until all are. */
  settle(id: string): void {
    if (this.ends(id)) return;
    const now = this.settling.get(id);
    if (now) {
      now.again = true;
      return;
    }
    let end = () => undefined as void;
    const mine = { again: true, ended: new Promise<void>((resolve) => (end = resolve)) };
    this.settling.set(id, mine);
    this.background.run('Rendering', async () => {
      try {
        // Open all the while: each opening asks for another look, and with little room that would never end.
        await this.pictures.use(id, async () => {
          while (mine.again) {
            mine.again = false;
            await this.renderStale(id);
          }
        });
      } finally {
        this.settling.delete(id);
        end();
      }
    });
  }

  /** Resolves when nothing of a picture is being rendered or waits for it. */
  async idle(id: string): Promise<void> {
    for (;;) {
      const batches = [...(this.batches.get(id) ?? [])];
      const settling = this.settling.get(id);
      if (!batches.length && !settling) return;
      await Promise.all([...batches, settling?.ended]);
    }
  }

  /**
   * Renders the tries of a new repair; one that fails or is stopped before its first try is ready is taken out again.
   * @param edit number of the edit that it came with
   * @param late nobody waits for it
   */
  renderFill(
    id: string,
    label: string,
    repairId: string,
    tryIds: string[],
    taskId: string,
    edit: number,
    late: RunOptions['late'] = false,
  ): void {
    this.batch(id, [repairId], label, async () => {
      try {
        await this.tasks.run(
          id,
          label,
          async (signal, progress) => {
            const done = tryIds.map(() => 0);
            const told = (n: number) => (f: number) => {
              done[n] = f;
              progress(done.reduce((a, b) => a + b) / done.length);
            };
            const make = async (tryId: string, n: number) => {
              await this.tries.renderTry(id, repairId, tryId, signal, told(n), late || n > 0);
              told(n)(1);
            };
            const sketched = this.tries.sketch(id, repairId, tryIds, signal);
            // One after another: the first is what is waited for, and the others share what it found out when the same thread makes
            // them after it.
            const all: PromiseSettledResult<void>[] = [];
            for (const [n, tryId] of tryIds.entries()) all.push(...(await Promise.allSettled([make(tryId, n)])));
            await sketched;
            const reasons = all.flatMap((r) => (r.status === 'rejected' ? [r.reason as Error] : []));
            if (!reasons.length) return void (await this.improve({ pictureId: id, repairId, edit }, signal));
            throw reasons.find((r) => !(r instanceof Cancelled)) ?? reasons[0];
          },
          taskId,
        );
      } catch (error) {
        // Whoever waits for it was told.
        if (!(error instanceof Cancelled) && !(error instanceof Refused)) console.error('Fill failed:', error);
        if (!this.ends(id)) await withdraw(this.pictures, id, repairId, tryIds);
      } finally {
        await this.pictures.use(id, (picture) => picture.dropSketches(tryIds)).catch(() => undefined);
      }
    });
  }

  /** Chooses among tries and makes better ones; that this fails, or is stopped, takes nothing back. */
  private async improve(made: JustMade, signal: AbortSignal): Promise<boolean> {
    try {
      return await this.better.improve(made, signal);
    } catch (error) {
      if (!(error instanceof Cancelled)) console.error('Trying better failed:', error);
      return false;
    }
  }

  /**
   * Renders many new repairs, and further tries of those that show; those that failed, or were not reached when it was stopped, are
   * taken out again.
   * @param edit number of the edit that they came with
   */
  renderMany(id: string, label: string, repairIds: string[], taskId: string, edit: number): void {
    this.batch(id, repairIds, label, async () => {
      try {
        await this.tasks.run(
          id,
          label,
          async (signal, progress) => {
            await renderEach(this, id, repairIds, signal, (done) => progress(RENDERED * done));
            const showing: string[] = [];
            for (const [n, repairId] of repairIds.entries()) {
              if (await this.improve({ pictureId: id, repairId, edit }, signal)) showing.push(repairId);
              progress(RENDERED + ((1 - RENDERED) * (n + 1)) / repairIds.length);
            }
            return showing;
          },
          taskId,
          undefined,
          (showing) => (showing.length ? stillSeen(repairIds.length, showing.length) : undefined),
        );
      } catch (error) {
        if (!(error instanceof Cancelled)) console.error(`${label}:`, error);
      }
      if (!this.ends(id)) await withdrawUnrendered(this.pictures, id, repairIds);
    });
  }

  /** Begins nothing new from now on, and leaves what is unfinished for the next start. */
  close(): void {
    this.closing = true;
  }

  /** Stops all rendering of pictures while something is done to them; it goes on afterwards where they are still there. */
  async without<T>(ids: readonly string[], work: () => Promise<T>): Promise<T> {
    for (const id of ids) this.halted.add(id);
    try {
      await Promise.all(ids.map((id) => this.tasks.cancelOf(id)));
      await Promise.all(ids.map((id) => this.idle(id)));
      return await work();
    } catch (error) {
      // They are still there: what was stopped goes on.
      for (const id of ids) this.halted.delete(id);
      for (const id of ids) this.settle(id);
      throw error;
    } finally {
      for (const id of ids) this.halted.delete(id);
    }
  }

  private ends(id: string): boolean {
    return this.closing || this.halted.has(id);
  }

  /** A stroke was painted: what samples its place is made again once the hand rests. */
  painted(id: string): void {
    this.updates.painted(id);
  }

  /** Holds updates back until they are asked for. */
  hold(id: string, held: boolean): void {
    this.updates.hold(id, held);
    if (!held) this.settle(id);
  }

  /** Lets repairs that could not be rendered be tried again. */
  async retry(id: string): Promise<void> {
    await this.pictures.use(id, (picture) => picture.forgetFailures());
    this.settle(id);
  }

  private batch(id: string, repairIds: string[], what: string, work: () => Promise<void>): void {
    let end = () => undefined as void;
    const ended = new Promise<void>((resolve) => (end = resolve));
    const own = this.batches.get(id) ?? new Set();
    this.batches.set(id, own.add(ended));
    this.background.run(what, async () => {
      try {
        // Open all the while: what is being worked on stays in memory.
        await this.pictures.use(id, async (picture) => {
          for (const repairId of repairIds) picture.working.add(repairId);
          try {
            await work();
          } finally {
            for (const repairId of repairIds) picture.working.delete(repairId);
            this.pictures.tell(picture);
          }
        });
        this.settle(id);
      } finally {
        own.delete(ended);
        if (!own.size) this.batches.delete(id);
        end();
      }
    });
  }

  private async renderStale(id: string): Promise<void> {
    const checked = new Set<string>();
    await this.pictures.use(id, async (picture) => {
      for (;;) {
        const next = this.ends(id) ? undefined : nextToRender(picture, this.updates.isHeld(id));
        if (!next) {
          const judged = this.ends(id) ? undefined : nextToCheck(picture, checked);
          if (!judged) return;
          await this.tries.judge(picture, ...judged);
          continue;
        }
        // What came meanwhile may lie beneath it: it is looked for anew.
        if (next.update && (await this.updates.rested(id))) continue;
        const make = (progress: (done: number) => void) => (signal: AbortSignal) =>
          this.tries.renderTry(id, next.repairId, next.tryId, signal, progress);
        try {
          await this.tasks.run(id, next.label, (signal, progress) =>
            next.update ? this.updates.run(id, signal, make(progress)).then(() => undefined) : make(progress)(signal),
          );
        } catch (error) {
          // Taken out meanwhile: then there is nothing to render any more.
          const gone = !picture.document.repairs.some((r) => r.tries.some((t) => t.id === next.tryId));
          if (this.ends(id) || (error instanceof Refused && error.status === 404)) throw error;
          if (gone) continue;
          picture.fail(next.failure, error instanceof Cancelled ? 'Updating was cancelled.' : sentenceFor(error));
          this.pictures.tell(picture);
        }
      }
    });
  }
}
