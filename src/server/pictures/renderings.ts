// Over 300 lines: what is rendered, stopped and taken out again shares one record of what is going on. To be divided into batches and
// the queue of stale repairs.
import { Refused } from '../../contract/refused.ts';
import type { Background } from '../background/background.ts';
import { planRemoval } from '../../document/edits/repairs.ts';
import type { TaskTracker } from '../background/task-tracker.ts';
import { Cancelled } from '../work/tasks.ts';
import { isEarlier } from '../../core/repair/registry.ts';
import { specText } from './keys.ts';
import { renderInPool } from './render-in-pool.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import { beneathFor, renderKey, type StackEntry } from './stack.ts';

/** How long many renderings go on before they are laid on and shown, ms. */
const SHOWN_EVERY = 1200;

/** A repair that is being rendered, which its removal stops. */
interface Ongoing {
  pictureId: string;
  repairId: string;
  tryId: string;
  controller: AbortController;
}

const textOf = (error: unknown) => (error as Error).message;

/** Renders repairs: those just made, and those that what lies beneath them made stale. */
export class Renderings {
  private readonly ongoing = new Set<Ongoing>();
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
    pictures.onEdited = (picture) => this.stopRemoved(picture);
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
        while (mine.again) {
          mine.again = false;
          await this.renderStale(id);
        }
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
              await this.renderTry(id, repairId, tryId, signal, told(n), n > 0);
              told(n)(1);
            };
            const sketched = this.sketch(id, repairId, tryIds, signal);
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

  /** Stops what renders repairs or tries that an edit, or undo, has just taken out. */
  private stopRemoved({ id, document }: OpenPicture): void {
    const tries = new Set(document.repairs.flatMap((r) => r.tries.map((t) => t.id)));
    for (const work of this.ongoing) if (work.pictureId === id && !tries.has(work.tryId)) work.controller.abort();
  }

  /** Renders a try over given entries below it and keeps it. @returns the row it is kept in */
  private async render(
    picture: OpenPicture,
    entries: readonly StackEntry[],
    at: number,
    tryId: string,
    signal: AbortSignal,
    onProgress?: (f: number) => void,
    late = false,
  ) {
    const { repair } = entries[at];
    const { spec } = repair.tries.find((t) => t.id === tryId)!;
    const beneath = beneathFor(spec, entries.slice(0, at), picture.original);
    const key = renderKey(picture.originalHash, spec, beneath);
    const known = picture.index.byKey.get(key);
    if (known) return known;
    return this.ongoingly({ pictureId: picture.id, repairId: repair.id, tryId }, signal, async (stopped) => {
      const layers = await picture.patches.layers(beneath);
      const { original, given } = picture;
      // What is done by hand is quick, and must not wait for a long fill.
      const options = { heavy: spec.method === 'fill', late, onProgress, signal: stopped };
      const { patch, packed, reason } = await renderInPool(
        this.pictures.pool,
        { original, beneath: layers, spec, given },
        options,
      );
      const box = { x: patch.x, y: patch.y, width: patch.width, height: patch.height };
      const row = { pictureId: picture.id, key, tryId, box, reason };
      const inUse = picture.placed.filter((s) => s.repairId === repair.id).map((s) => s.key);
      const dropped = await this.pictures.store.saveRender({ ...row, patch: packed }, inUse);
      picture.index.remove(dropped.keys);
      picture.patches.put(key, patch);
      const kept = { ...row, patch: dropped.patch };
      picture.index.add(kept);
      return kept;
    });
  }

  /** Does work that ends when it is stopped, or when the try it is for is taken out. */
  private async ongoingly<T>(
    what: Omit<Ongoing, 'controller'>,
    signal: AbortSignal,
    work: (stopped: AbortSignal) => Promise<T>,
  ): Promise<T> {
    const controller = new AbortController();
    const ongoing: Ongoing = { ...what, controller };
    this.ongoing.add(ongoing);
    const stop = () => controller.abort();
    signal.addEventListener('abort', stop, { once: true });
    try {
      return await work(controller.signal);
    } finally {
      signal.removeEventListener('abort', stop);
      this.ongoing.delete(ongoing);
    }
  }

  /** Shows how tries will about look until they are rendered; that it cannot be sketched is no failure. */
  private async sketch(id: string, repairId: string, tryIds: readonly string[], signal: AbortSignal): Promise<void> {
    await this.pictures
      .use(id, async (picture) => {
        const entries = picture.stack();
        const at = entries.findIndex((e) => e.repair.id === repairId);
        const tries = entries[at]?.repair.tries.filter((t) => tryIds.includes(t.id)) ?? [];
        for (const { id: tryId, spec } of tries) {
          if (signal.aborted || picture.index.byTry.has(tryId)) continue;
          const beneath = await picture.patches.layers(beneathFor(spec, entries.slice(0, at), picture.original));
          const input = { original: picture.original, beneath, spec: specText(spec) };
          const { patch } = await this.ongoingly({ pictureId: id, repairId, tryId }, signal, (stopped) =>
            this.pictures.pool.run('sketch', input, { signal: stopped }),
          );
          if (!patch) return;
          if (signal.aborted || picture.index.byTry.has(tryId)) continue;
          picture.sketch(tryId, patch);
          await this.pictures.inTurn(id, (open) => this.pictures.show(open));
        }
      })
      .catch(() => undefined);
  }

  /** Renders one try over what now lies beneath its repair, keeps it and shows it if it is the chosen one. */
  private async renderTry(
    id: string,
    repairId: string,
    tryId: string,
    signal: AbortSignal,
    onProgress: (f: number) => void,
    late = false,
  ): Promise<void> {
    await this.pictures.use(id, async (picture) => {
      const entries = picture.stack();
      const at = entries.findIndex((e) => e.repair.id === repairId);
      if (!entries[at]?.repair.tries.some((t) => t.id === tryId)) return;
      const row = await this.render(picture, entries, at, tryId, signal, onProgress, late);
      picture.index.alias(tryId, row);
      await this.pictures.inTurn(id, (open) => this.pictures.show(open));
      picture.dropSketches([tryId]);
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
          await this.render(picture, entries, at, repair.chosen, signal);
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
    await this.pictures.use(id, async (picture) => {
      for (;;) {
        const next = this.ends(id) ? undefined : nextToRender(picture);
        if (!next) return;
        try {
          await this.tasks.run(id, next.label, (signal, progress) =>
            this.renderTry(id, next.repairId, next.tryId, signal, progress),
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

/** The try to render next: a chosen one that is not current, else one that a stop of the server left unrendered. */
function nextToRender(picture: OpenPicture) {
  const idle = picture.stack().filter((e) => !picture.working.has(e.repair.id));
  const specOf = ({ repair }: StackEntry) => repair.tries.find((t) => t.id === repair.chosen)!.spec;
  // What an earlier version of a method made stays as it is: today it would look otherwise.
  for (const e of idle) {
    if (e.current || !isEarlier(specOf(e)) || picture.failureOf(e.key) !== undefined) continue;
    picture.fail(e.key, 'Made by an earlier version of its method, over other pixels than now. Make it anew.');
  }
  const stale = idle.find((e) => !e.current && picture.failureOf(e.key) === undefined);
  if (stale) {
    const label = stale.shown ? 'Update a repair that samples changed pixels' : 'Render a repair';
    return { repairId: stale.repair.id, tryId: stale.repair.chosen, failure: stale.key, label };
  }
  for (const { repair, key } of idle) {
    const failed = (id: string) => picture.failureOf(id === repair.chosen ? key : id) !== undefined;
    const missing = repair.tries.find((t) => !picture.index.byTry.has(t.id) && !failed(t.id) && !isEarlier(t.spec));
    if (missing) return { repairId: repair.id, tryId: missing.id, failure: missing.id, label: 'Finish a fill' };
  }
  return undefined;
}
