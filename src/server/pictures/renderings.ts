import { Refused } from '../../contract/refused.ts';
import type { Background } from '../background/background.ts';
import { planRemoval } from '../../document/edits/repairs.ts';
import type { TaskTracker } from '../background/task-tracker.ts';
import { Cancelled } from '../work/work.ts';
import { nextToCheck, nextToRender } from './next-to-render.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import { TryRenderer } from './try-renderer.ts';

/** How long many renderings go on before they are laid on and shown, ms. */
const SHOWN_EVERY = 1200;

const textOf = (error: unknown) => (error as Error).message;

/** Renders repairs: those just made, and those that what lies beneath them made stale. */
export class Renderings {
  private readonly tries: TryRenderer;
  /** pictures whose stale repairs are being rendered, and whether to look once more afterwards */
  private readonly settling = new Map<string, { again: boolean; ended: Promise<void> }>();
  private readonly batches = new Map<string, Set<Promise<void>>>();

  /** pictures of which nothing is rendered any more, since they are being removed */
  private readonly halted = new Set<string>();
  private closing = false;

  constructor(
    private readonly pictures: Pictures,
    private readonly tasks: TaskTracker,
    private readonly background: Background,
  ) {
    pictures.onOpened = (id) => this.settle(id);
    this.tries = new TryRenderer(pictures);
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

  /** Renders the tries of a new repair; one that fails or is stopped before its first try is ready is taken out again. */
  renderFill(id: string, label: string, repairId: string, tryIds: string[], taskId: string): void {
    this.batch(id, [repairId], label, async () => {
      const failures: string[] = [];
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
              await this.tries.renderTry(id, repairId, tryId, signal, told(n), n > 0);
              told(n)(1);
            };
            const sketched = this.tries.sketch(id, repairId, tryIds, signal);
            // One after another: the first is what is waited for, and the others share what it found out when the same thread makes
            // them after it.
            const all: PromiseSettledResult<void>[] = [];
            for (const [n, tryId] of tryIds.entries()) all.push(...(await Promise.allSettled([make(tryId, n)])));
            await sketched;
            const reasons = all.flatMap((r) => (r.status === 'rejected' ? [r.reason as Error] : []));
            if (!reasons.length) return;
            failures.push(...reasons.filter((r) => !(r instanceof Cancelled)).map(textOf));
            throw reasons.find((r) => !(r instanceof Cancelled)) ?? reasons[0];
          },
          taskId,
        );
      } catch (error) {
        if (!(error instanceof Cancelled)) console.error(`Fill failed: ${textOf(error)}`);
        await this.withdraw(id, repairId, tryIds);
      } finally {
        await this.pictures.use(id, (picture) => picture.dropSketches(tryIds)).catch(() => undefined);
      }
    });
  }

  /** Renders many new repairs; those that failed, or were not reached when it was stopped, are taken out again. */
  renderMany(id: string, label: string, repairIds: string[], taskId: string): void {
    this.batch(id, repairIds, label, async () => {
      try {
        await this.tasks.run(id, label, (signal, progress) => this.renderEach(id, repairIds, signal, progress), taskId);
      } catch (error) {
        if (!(error instanceof Cancelled)) console.error(`${label}: ${textOf(error)}`);
      }
      await this.withdrawUnrendered(id, repairIds);
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

  /** Renders the chosen tries of many repairs from the bottom up, and lays them on in portions. */
  private async renderEach(
    id: string,
    repairIds: string[],
    signal: AbortSignal,
    progress: (done: number) => void,
  ): Promise<void> {
    const failures: string[] = [];
    await this.pictures.use(id, async (picture) => {
      const show = () => this.pictures.inTurn(id, (open) => this.pictures.show(open));
      const wanted = new Set(repairIds);
      let shownAt = Date.now();
      for (let done = 0; wanted.size; done++) {
        if (signal.aborted) throw new Cancelled();
        // Looked up anew each time: what was made meanwhile, or taken out, counts.
        const entries = picture.stack();
        const at = entries.findIndex((e) => wanted.has(e.repair.id));
        if (at < 0) break;
        const { repair } = entries[at];
        wanted.delete(repair.id);
        try {
          await this.tries.render(picture, entries, at, repair.chosen, signal);
        } catch (error) {
          // Stopped as a whole, or only this one was taken out.
          if (signal.aborted) throw error;
          if (!(error instanceof Cancelled)) failures.push(`${faultsOf(picture, repair.faultIds)}: ${textOf(error)}`);
          if (error instanceof Refused && error.status === 507) throw error;
        }
        progress((done + 1) / repairIds.length);
        if (Date.now() - shownAt > SHOWN_EVERY) {
          await show();
          shownAt = Date.now();
        }
      }
      await show();
    });
    if (failures.length)
      throw new Error(
        `${failures.length} of ${repairIds.length} could not be repaired: ${failures.slice(0, 3).join(' ')}`,
      );
  }

  /** Takes repairs that were never rendered out of the document again, in one edit. */
  private async withdrawUnrendered(id: string, repairIds: string[]): Promise<void> {
    if (this.ends(id)) return;
    await this.pictures.inTurn(id, async (picture) => {
      const own = new Set(repairIds);
      const missing = picture.document.repairs.filter((r) => own.has(r.id) && !picture.index.byTry.has(r.chosen));
      if (!missing.length) return;
      const changes = planRemoval(picture.document, missing);
      await this.pictures.apply(picture, `Stop before ${missing.length} repairs`, changes);
    });
  }

  /** Takes a fill that never came about out of the document again; what else was edited meanwhile stays. */
  private async withdraw(id: string, repairId: string, tryIds: string[]): Promise<void> {
    if (this.ends(id)) return;
    await this.pictures.inTurn(id, async (picture) => {
      const repair = picture.document.repairs.find((r) => r.id === repairId);
      if (!repair) return;
      const rendered = repair.tries.filter((t) => picture.index.byTry.has(t.id));
      if (rendered.length === repair.tries.length) return;
      if (rendered.length === 0)
        return this.pictures.apply(picture, 'Stop the fill', planRemoval(picture.document, [repair]));
      const kept = rendered.some((t) => t.id === repair.chosen) ? repair.chosen : rendered[rendered.length - 1].id;
      const after = {
        ...repair,
        tries: repair.tries.filter((t) => !tryIds.includes(t.id) || picture.index.byTry.has(t.id)),
        chosen: kept,
      };
      const change = { kind: 'repair' as const, id: repairId, before: repair, after };
      await this.pictures.apply(picture, 'Stop after the tries so far', [change]);
    });
  }

  private async renderStale(id: string): Promise<void> {
    const checked = new Set<string>();
    await this.pictures.use(id, async (picture) => {
      for (;;) {
        const next = this.ends(id) ? undefined : nextToRender(picture);
        if (!next) {
          const judged = this.ends(id) ? undefined : nextToCheck(picture, checked);
          if (!judged) return;
          await this.tries.judge(picture, ...judged);
          continue;
        }
        try {
          await this.tasks.run(id, next.label, (signal, progress) =>
            this.tries.renderTry(id, next.repairId, next.tryId, signal, progress),
          );
        } catch (error) {
          // Taken out meanwhile: then there is nothing to render any more.
          const gone = !picture.document.repairs.some((r) => r.tries.some((t) => t.id === next.tryId));
          if (this.ends(id) || (error instanceof Refused && error.status === 404)) throw error;
          if (gone) continue;
          picture.fail(next.failure, error instanceof Cancelled ? 'Updating was cancelled.' : textOf(error));
          this.pictures.tell(picture);
        }
      }
    });
  }
}

function faultsOf(picture: OpenPicture, faultIds: string[]): string {
  const numbers = picture.document.faults.filter((f) => faultIds.includes(f.id)).map((f) => f.number);
  return `fault ${numbers.join(', ')}`;
}
