import { specText } from './keys.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import type { RunOptions } from '../work/pool.ts';
import { renderInPool } from './render-in-pool.ts';
import { beneathFor, renderKey, type StackEntry } from './stack.ts';

/** A repair that is being rendered, which its removal stops. */
interface Ongoing {
  pictureId: string;
  repairId: string;
  tryId: string;
  controller: AbortController;
}

/** Renders single tries and keeps what came of it; what is taken out meanwhile is stopped. */
export class TryRenderer {
  private readonly ongoing = new Set<Ongoing>();

  constructor(private readonly pictures: Pictures) {}

  /** Stops what renders repairs or tries that an edit, or undo, has just taken out. */
  stopRemoved({ id, document }: OpenPicture): void {
    const tries = new Set(document.repairs.flatMap((r) => r.tries.map((t) => t.id)));
    for (const work of this.ongoing) if (work.pictureId === id && !tries.has(work.tryId)) work.controller.abort();
  }

  /** Renders a try over given entries below it and keeps it. @returns the row it is kept in */
  async render(
    picture: OpenPicture,
    entries: readonly StackEntry[],
    at: number,
    tryId: string,
    signal: AbortSignal,
    onProgress?: (f: number) => void,
    late: RunOptions['late'] = false,
  ) {
    const { repair } = entries[at];
    const { spec } = repair.tries.find((t) => t.id === tryId)!;
    const beneath = beneathFor(spec, entries.slice(0, at), picture.original);
    const key = renderKey(picture.baseKey, spec, beneath);
    const known = picture.index.byKey.get(key);
    if (known) return known;
    return this.ongoingly({ pictureId: picture.id, repairId: repair.id, tryId }, signal, async (stopped) => {
      const layers = await picture.patches.layers(beneath);
      const { original, given } = picture;
      // What is done by hand is quick, and must not wait for a long fill.
      const options = { heavy: spec.method === 'fill' || spec.method === 'stretch', late, onProgress, signal: stopped };
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

  /** Measures what a rendering of a try gives away, once, keeps it and tells windows. What cannot be checked is shown all the same. */
  async judge(picture: OpenPicture, entries: readonly StackEntry[], at: number, tryId: string): Promise<void> {
    try {
      const { repair } = entries[at];
      const { spec } = repair.tries.find((t) => t.id === tryId)!;
      const beneath = beneathFor(spec, entries.slice(0, at), picture.original);
      const row = picture.index.byKey.get(renderKey(picture.baseKey, spec, beneath));
      if (!row || row.signs) return;
      const { original, given, id } = picture;
      const own = { repairId: repair.id, key: row.key, box: row.box, strength: 1, marks: [], reveal: '' };
      const [layers, [{ patch }]] = await Promise.all([picture.patches.layers(beneath), picture.patches.layers([own])]);
      const input = { original, beneath: layers, spec: specText(spec), given, patch };
      const { signs } = await this.pictures.pool.run('check', input, { late: true });
      await this.pictures.store.saveSigns(id, row.key, signs);
      picture.index.judge(row.key, signs);
      this.pictures.tell(picture);
    } catch (error) {
      console.error(`Check failed: ${(error as Error).message}`);
    }
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
    try {
      // One that was stopped before it began stays stopped.
      return await work(AbortSignal.any([signal, controller.signal]));
    } finally {
      this.ongoing.delete(ongoing);
    }
  }

  /** Shows how tries will about look until they are rendered; that it cannot be sketched is no failure. */
  async sketch(id: string, repairId: string, tryIds: readonly string[], signal: AbortSignal): Promise<void> {
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
  async renderTry(
    id: string,
    repairId: string,
    tryId: string,
    signal: AbortSignal,
    onProgress: (f: number) => void,
    late: RunOptions['late'] = false,
  ): Promise<void> {
    await this.pictures.use(id, async (picture) => {
      const entries = picture.stack();
      const at = entries.findIndex((e) => e.repair.id === repairId);
      if (!entries[at]?.repair.tries.some((t) => t.id === tryId)) return;
      const row = await this.render(picture, entries, at, tryId, signal, onProgress, late);
      picture.index.alias(tryId, row);
      await this.pictures.inTurn(id, (open) => this.pictures.show(open));
      picture.dropSketches([tryId]);
      await this.judge(picture, entries, at, tryId);
    });
  }
}
