import type { z } from 'zod';
import type {
  Edit,
  FillRequest,
  PictureState,
  poseRequestSchema,
  proposalRequestSchema,
  RepairStatus,
} from '../../contract/api.ts';
import type { FaultKind, PictureDocument } from '../../contract/document.ts';
import { intersect, isEmpty, union, type Box, type Raster } from '../../core/raster/raster.ts';
import type { Advice } from '../../core/plan/advice.ts';
import { allocatePyramid } from '../../core/raster/pyramid.ts';
import type { Patch } from '../../core/repair/patch.ts';
import { Refused, type Limits } from '../../codec/limits.ts';
import type { GivenLayer } from '../../codec/openraster.ts';
import type { StoreClient } from '../store/client.ts';
import type { Pool } from '../work/pool.ts';
import { Cancelled, type Laid } from '../work/tasks.ts';
import { habitOf, workOut, workOutRemoval } from './edits.ts';
import type { Events } from './events.ts';
import { refusedByPolicy, workOutFill, workOutMany, workOutPortions, type Policy } from './fills.ts';
import {
  beneathFor,
  difference,
  RenderIndex,
  renderKey,
  stackOf,
  veilOf,
  type Shown,
  type StackEntry,
} from './stack.ts';
import type { Taskboard } from './taskboard.ts';

interface OpenPicture {
  id: string;
  originalHash: string;
  original: Raster;
  originalPyramid: Raster[];
  icc: Uint8Array | null;
  given: GivenLayer[];
  /** the picture with its repairs; the original itself until there are any */
  composite: Raster;
  pyramid: Raster[];
  index: RenderIndex;
  patches: Map<string, Promise<Patch>>;
  shown: Shown[];
  /** names this opening, so that a browser never shows tiles kept from an earlier one */
  epoch: string;
  version: number;
  dirty: Array<Box & { version: number }>;
  failures: Map<string, string>;
  working: Set<string>;
  /** edits and what follows from them run one after another */
  turn: Promise<unknown>;
  usedAt: number;
}

const MOST_OPEN = 6;
const ADVISED_AT_ONCE = 100;

/** `changes` are the repairs alone on grey, `only-ID` those of one layer. */
export type TileView = 'repaired' | 'original' | 'difference' | 'changes' | `only-${string}`;

/** The pictures in work: their pixels in memory, their repairs rendered and laid on as the document says. */
export class Desk {
  private readonly open = new Map<string, Promise<OpenPicture>>();

  constructor(
    private readonly store: StoreClient,
    private readonly pool: Pool,
    private readonly events: Events,
    private readonly tasks: Taskboard,
    private readonly limits: Limits,
  ) {}

  /** The picture as people see it: document, what is rendered, undo and redo. */
  async state(id: string): Promise<PictureState> {
    const picture = await this.get(id);
    const row = await this.store.picture(id);
    if (!row) throw new Refused('This picture no longer exists.', 404);
    const document = await this.store.document(id);
    const entries = this.stack(picture, document);
    const { undo, redo } = await this.store.steps(id);
    return {
      picture: { id: row.id, jobId: row.jobId, name: row.name, facts: row.facts, revision: row.revision },
      document,
      statuses: entries.map((entry, i) => this.status(picture, entry, entries.slice(0, i))),
      undo,
      redo,
      pixels: { epoch: picture.epoch, version: picture.version, dirty: picture.dirty },
      levels: picture.originalPyramid.length,
    };
  }

  /** Puts an edit in force, renders what it made stale and resolves once the edit itself is on disk. */
  async edit(id: string, edit: Edit): Promise<void> {
    await this.inTurn(id, async (picture) => {
      const document = await this.store.document(id);
      if (edit.type === 'placeRepair') refusedByPolicy((await this.store.rulesOf(id)).policy, faultsOf(document, edit));
      const advice = await this.advise(picture, edit);
      const habits = advice.length ? await this.store.habits() : {};
      const { label, changes } = workOut(document, edit, picture.original, advice, habits);
      await this.store.applyEdit(id, label, changes);
      const habit = habitOf(document, edit);
      if (habit) await this.store.remember(habit.kind, habit.set);
      await this.refresh(picture);
    });
    this.settle(id);
  }

  async step(id: string, direction: -1 | 1): Promise<string | null> {
    const label = await this.inTurn(id, async (picture) => {
      const done = await this.store.step(id, direction);
      picture.failures.clear();
      await this.refresh(picture);
      return done;
    });
    this.settle(id);
    return label;
  }

  /**
   * Starts a fill. The repair is in the document, on disk, before anything is rendered; its three tries follow. A fill that fails or is cancelled before its first try is ready takes itself out again.
   */
  async fill(id: string, request: FillRequest, taskId: string): Promise<{ repairId: string }> {
    if (request.portions > 1 && !request.repairId) {
      const { repairIds } = await this.makeMany(id, taskId, (document, size, policy) =>
        workOutPortions(document, request, size, policy),
      );
      return { repairId: repairIds[0] };
    }
    const worked = await this.inTurn(id, async (picture) => {
      const document = await this.store.document(id);
      const fill = workOutFill(document, request, picture.original, (await this.store.rulesOf(id)).policy);
      await this.store.applyEdit(id, fill.label, fill.changes);
      picture.working.add(fill.repairId);
      await this.refresh(picture);
      return fill;
    });
    void this.tasks
      .run(
        id,
        worked.label,
        async (signal, progress) => {
          // The tries do not depend on one another: as many at once as there are cores, the first ones first.
          const { tryIds } = worked;
          const done = tryIds.map(() => 0);
          await Promise.all(
            tryIds.map((tryId, n) =>
              this.renderTry(id, worked.repairId, tryId, signal, (f) => {
                done[n] = f;
                progress(done.reduce((a, b) => a + b) / done.length);
              }).then(() => (done[n] = 1)),
            ),
          );
        },
        taskId,
      )
      .catch((error: Error) => this.withdraw(id, worked.repairId, worked.tryIds, error))
      .finally(async () => {
        (await this.get(id)).working.delete(worked.repairId);
        this.events.send({ type: 'changed', pictureId: id });
        this.settle(id);
      });
    return { repairId: worked.repairId };
  }

  /** The picture as it now stands, for looking at. */
  async present(id: string): Promise<Raster> {
    return (await this.get(id)).composite;
  }

  /**
   * Fills many faults in the background. All repairs are in the document, on disk, before the first is rendered. Cancelled or
   * failed, those not rendered yet are taken out again and their faults are open as before.
   */
  async treat(id: string, faultIds: string[], taskId: string): Promise<{ repairs: number }> {
    const { repairIds } = await this.makeMany(id, taskId, (document, size, policy) =>
      workOutMany(document, faultIds, size, policy),
    );
    return { repairs: repairIds.length };
  }

  /** Puts many repairs into the document as one edit and renders them in the background. */
  private async makeMany(
    id: string,
    taskId: string,
    work: (document: PictureDocument, size: Raster, policy: Policy) => ReturnType<typeof workOutMany>,
  ): Promise<{ repairIds: string[] }> {
    const worked = await this.inTurn(id, async (picture) => {
      const many = work(await this.store.document(id), picture.original, (await this.store.rulesOf(id)).policy);
      await this.store.applyEdit(id, many.label, many.changes);
      for (const repairId of many.repairIds) picture.working.add(repairId);
      await this.refresh(picture);
      return many;
    });
    void this.tasks
      .run(id, worked.label, (signal, progress) => this.renderMany(id, worked.repairIds, signal, progress), taskId)
      .catch(() => undefined)
      .finally(async () => {
        const picture = await this.get(id);
        for (const repairId of worked.repairIds) picture.working.delete(repairId);
        await this.withdrawUnrendered(id, worked.repairIds);
        this.events.send({ type: 'changed', pictureId: id });
        this.settle(id);
      });
    return { repairIds: worked.repairIds };
  }

  async tile(id: string, view: TileView, level: number, x: number, y: number, side: number) {
    const picture = await this.get(id);
    const from =
      view === 'original' ? [picture.original, ...picture.originalPyramid] : [picture.composite, ...picture.pyramid];
    const raster = from[level];
    if (!raster) throw new Refused('There is no such tile.', 404);
    const box = intersect(
      { x: x * side, y: y * side, width: side, height: side },
      { x: 0, y: 0, width: raster.width, height: raster.height },
    );
    if (isEmpty(box)) throw new Refused('There is no such tile.', 404);
    if (view === 'changes' || view.startsWith('only-')) {
      const whole = { x: box.x << level, y: box.y << level, width: box.width << level, height: box.height << level };
      const layer = view === 'changes' ? null : view.slice(5);
      const own = layer
        ? new Set((await this.store.document(id)).repairs.filter((r) => r.layerId === layer).map((r) => r.id))
        : null;
      const shown = picture.shown.filter((s) => (!own || own.has(s.repairId)) && !isEmpty(intersect(s.box, whole)));
      const { channels, depth } = picture.original;
      return this.pool.run('changes', {
        kind: { channels, depth },
        box,
        level,
        laid: await this.laid(picture, shown),
        icc: picture.icc,
      });
    }
    const other = view === 'difference' ? [picture.original, ...picture.originalPyramid][level] : undefined;
    return this.pool.run('tile', { raster, other, box, icc: picture.icc, lossless: level === 0 });
  }

  /** A box of the picture at most `side` px large, as a picture file. */
  async closeUp(id: string, box: Box, side: number, view: 'repaired' | 'original') {
    const picture = await this.get(id);
    const levels =
      view === 'original' ? [picture.original, ...picture.originalPyramid] : [picture.composite, ...picture.pyramid];
    let level = 0;
    while (level < levels.length - 1 && Math.max(box.width, box.height) >> level > side) level++;
    const raster = levels[level];
    const scaled = intersect(
      {
        x: box.x >> level,
        y: box.y >> level,
        width: Math.max(1, box.width >> level),
        height: Math.max(1, box.height >> level),
      },
      { x: 0, y: 0, width: raster.width, height: raster.height },
    );
    if (isEmpty(scaled)) throw new Refused('This place lies outside the picture.', 404);
    return this.pool.run('tile', { raster, box: scaled, icc: picture.icc, lossless: false });
  }

  /** A box of the picture as it would be with a rendering in use at full strength, as a picture file. */
  async tryView(id: string, box: Box, key: string) {
    const picture = await this.get(id);
    const row = picture.index.byKey.get(key);
    if (!row) throw new Refused('There is no such rendering.', 404);
    const { width, height } = picture.original;
    const inside = intersect(box, { x: 0, y: 0, width, height });
    if (isEmpty(inside)) throw new Refused('This place lies outside the picture.', 404);
    const shown = this.stack(picture, await this.store.document(id)).flatMap((e): Shown[] => {
      if (e.repair.tries.some((t) => t.id === row.tryId))
        return [{ repairId: e.repair.id, key, box: row.box, strength: 1, marks: [], veil: '' }];
      return e.shown && e.shown.strength > 0 && !isEmpty(intersect(e.shown.box, inside)) ? [e.shown] : [];
    });
    const laid = await this.laid(picture, shown);
    const { raster } = await this.pool.run('region', { original: picture.original, box: inside, laid });
    const whole = { x: 0, y: 0, width: raster.width, height: raster.height };
    return this.pool.run('tile', { raster, box: whole, icc: picture.icc, lossless: false });
  }

  /** A rendering as PNG with alpha in screen colours. */
  async patchView(id: string, key: string): Promise<{ bytes: Uint8Array }> {
    const picture = await this.get(id);
    return this.pool.run('patchView', { patch: await this.patch(picture, key), icc: picture.icc });
  }

  /** All renderings of a picture's repairs, current ones only, for export. */
  async exportInput(id: string) {
    await this.settled(id);
    const picture = await this.get(id);
    const row = await this.store.picture(id);
    const document = await this.store.document(id);
    const entries = this.stack(picture, document);
    const layers = await Promise.all(
      document.layers.map(async (layer) => ({
        name: layer.name,
        opacity: layer.opacity,
        visible: layer.visible,
        repairs: await Promise.all(
          entries
            .filter((e) => e.repair.layerId === layer.id && e.shown)
            .map(async (e) => ({
              patch: await this.revealed(picture, e.shown!),
              strength: e.repair.strength,
              visible: e.repair.visible,
              name: this.repairName(document, e),
            })),
        ),
      })),
    );
    return {
      file: await this.store.readBlob(row!.original),
      original: picture.original,
      layers,
      name: row!.name,
      limits: this.limits,
    };
  }

  /** The pixels beneath a new repair on top of a layer (of all, without one), or beneath an existing repair, in a box. */
  async beneath(id: string, box: Box, at: { layer?: string; repair?: string }): Promise<Raster> {
    const picture = await this.get(id);
    const document = await this.store.document(id);
    const inside = intersect(box, { x: 0, y: 0, width: picture.original.width, height: picture.original.height });
    if (isEmpty(inside)) throw new Refused('This place lies outside the picture.', 404);
    let entries = this.stack(picture, document);
    if (at.repair) {
      const index = entries.findIndex((e) => e.repair.id === at.repair);
      if (index < 0) throw new Refused('This repair no longer exists.', 409);
      entries = entries.slice(0, index);
    } else if (at.layer) {
      const top = document.layers.findIndex((l) => l.id === at.layer);
      const upTo = new Set(document.layers.slice(0, top + 1).map((l) => l.id));
      if (top >= 0) entries = entries.filter((e) => upTo.has(e.repair.layerId));
    }
    const shown = entries.flatMap((e) =>
      e.shown && e.shown.strength > 0 && !isEmpty(intersect(e.shown.box, inside)) ? [e.shown] : [],
    );
    const laid = await this.laid(picture, shown);
    return (await this.pool.run('region', { original: picture.original, box: inside, laid })).raster;
  }

  /** What the adviser says of a place: settings, method, donors. */
  async propose(id: string, request: z.infer<typeof proposalRequestSchema>) {
    const picture = await this.get(id);
    const document = await this.store.document(id);
    const avoid = document.faults.filter((f) => f.state === 'open').flatMap((f) => f.shapes);
    return this.pool.run('propose', {
      raster: picture.composite,
      kind: request.kind,
      shapes: request.shapes,
      avoid: [...avoid.slice(0, 2000), ...request.barred],
      school: (await this.store.rulesOf(id)).donors,
    });
  }

  /** The pose in which a piece fits a place of the picture as it stands. */
  async solvePose(id: string, { piece, rough, ...options }: z.infer<typeof poseRequestSchema>) {
    const picture = await this.get(id);
    return this.pool.run('pose', { raster: picture.composite, piece, rough, options });
  }

  /** Resolves when every repair is rendered over the present pixels beneath it. */
  async settled(id: string): Promise<void> {
    await this.settle(id);
  }

  forget(id: string): void {
    this.open.delete(id);
  }

  // --- inside -----------------------------------------------------------------------------------------------------

  /** What is proposed for the marks that an edit makes. In portions, so that the view is served between them. */
  private async advise(picture: OpenPicture, edit: Edit): Promise<Advice[]> {
    const marks =
      edit.type === 'addFault'
        ? [edit]
        : edit.type === 'addFaults'
          ? edit.faults
          : edit.type === 'placeRepair' && edit.mark
            ? [edit.mark]
            : [];
    const out: Advice[] = [];
    for (let n = 0; n < marks.length; n += ADVISED_AT_ONCE) {
      const part = marks.slice(n, n + ADVISED_AT_ONCE).map(({ kind, shapes }) => ({ kind, shapes }));
      out.push(...(await this.pool.run('advise', { raster: picture.composite, marks: part })).advice);
    }
    return out;
  }

  private repairName(document: PictureDocument, entry: StackEntry): string {
    const numbers = document.faults.filter((f) => entry.repair.faultIds.includes(f.id)).map((f) => f.number);
    const at = document.repairs.indexOf(entry.repair) + 1;
    return `repair ${String(at).padStart(3, '0')} fault ${numbers.slice(0, 6).join('+') || 'removed'}`;
  }

  private get(id: string): Promise<OpenPicture> {
    let opening = this.open.get(id);
    if (!opening) {
      opening = this.load(id);
      this.open.set(id, opening);
      opening.catch(() => this.open.delete(id));
      void this.closeOldest();
    }
    void opening.then((p) => (p.usedAt = Date.now())).catch(() => undefined);
    return opening;
  }

  private async load(id: string): Promise<OpenPicture> {
    const row = await this.store.picture(id);
    if (!row) throw new Refused('This picture no longer exists.', 404);
    const [file, renders] = await Promise.all([this.store.readBlob(row.original), this.store.rendersOf(id)]);
    const { raster, pyramid, icc, layers } = await this.pool.run('open', {
      file,
      fileName: row.name,
      limits: this.limits,
    });
    const picture: OpenPicture = {
      id,
      originalHash: row.original,
      original: raster,
      originalPyramid: pyramid,
      icc,
      given: layers,
      composite: raster,
      pyramid,
      index: new RenderIndex(renders),
      patches: new Map(),
      shown: [],
      epoch: Date.now().toString(36),
      version: 1,
      dirty: [],
      failures: new Map(),
      working: new Set(),
      turn: Promise.resolve(),
      usedAt: Date.now(),
    };
    await this.refresh(picture, true);
    setTimeout(() => this.settle(id), 0);
    return picture;
  }

  private async closeOldest(): Promise<void> {
    if (this.open.size <= MOST_OPEN) return;
    const all = await Promise.allSettled(this.open.values());
    const idle = all
      .flatMap((r) => (r.status === 'fulfilled' && r.value.working.size === 0 ? [r.value] : []))
      .sort((a, b) => a.usedAt - b.usedAt);
    for (const picture of idle.slice(0, this.open.size - MOST_OPEN)) this.open.delete(picture.id);
  }

  private async inTurn<T>(id: string, work: (picture: OpenPicture) => Promise<T>): Promise<T> {
    const picture = await this.get(id);
    const mine = picture.turn.then(() => work(picture));
    picture.turn = mine.catch(() => undefined);
    return mine;
  }

  private stack(picture: OpenPicture, document: PictureDocument): StackEntry[] {
    return stackOf(document, picture.originalHash, picture.original, picture.index);
  }

  private status(picture: OpenPicture, entry: StackEntry, below: StackEntry[]): RepairStatus {
    const tries: RepairStatus['tries'] = {};
    for (const t of entry.repair.tries) {
      const key = renderKey(picture.originalHash, t.spec, beneathFor(t.spec, below, picture.original));
      const row = picture.index.byKey.get(key) ?? picture.index.byTry.get(t.id);
      if (row) tries[t.id] = { ready: true, key: row.key, reason: row.reason, box: row.box };
    }
    const failed = picture.failures.get(entry.key);
    const state = entry.current ? 'shown' : failed ? 'failed' : entry.shown ? 'stale' : 'working';
    return { id: entry.repair.id, state, tries, message: failed };
  }

  private patch(picture: OpenPicture, key: string): Promise<Patch> {
    let patch = picture.patches.get(key);
    if (!patch) {
      const row = picture.index.byKey.get(key);
      if (!row) return Promise.reject(new Refused('There is no such rendering.', 404));
      patch = this.store.readBlob(row.patch).then(async (packed) => (await this.pool.run('unpack', { packed })).patch);
      picture.patches.set(key, patch);
      patch.catch(() => picture.patches.delete(key));
    }
    return patch;
  }

  /** A rendering of which only what its marks show is left. */
  private revealed(picture: OpenPicture, { key, marks, veil }: Shown): Promise<Patch> {
    if (!veil) return this.patch(picture, key);
    const name = `${key}.${veil}`;
    let patch = picture.patches.get(name);
    if (!patch) {
      patch = this.patch(picture, key).then(
        async (whole) => (await this.pool.run('reveal', { patch: whole, marks: [...marks] })).patch,
      );
      picture.patches.set(name, patch);
      patch.catch(() => picture.patches.delete(name));
    }
    return patch;
  }

  private async laid(picture: OpenPicture, list: Shown[]): Promise<Laid[]> {
    return Promise.all(list.map(async (s) => ({ patch: await this.revealed(picture, s), strength: s.strength })));
  }

  /** Lays on what the document now says, where it differs from what is shown. */
  private async refresh(picture: OpenPicture, quiet = false): Promise<void> {
    const document = await this.store.document(picture.id);
    const shown = this.stack(picture, document).flatMap((e) => (e.shown && e.shown.strength > 0 ? [e.shown] : []));
    const boxes = joined(difference(picture.shown, shown));
    if (boxes.length) {
      if (picture.composite === picture.original) {
        const { original } = picture;
        const data = original.data.slice();
        const shared = new SharedArrayBuffer(data.byteLength);
        const copy = original.depth === 16 ? new Uint16Array(shared) : new Uint8Array(shared);
        copy.set(data);
        picture.composite = { ...original, data: copy as never };
        picture.pyramid = allocatePyramid(picture.composite);
        picture.originalPyramid.forEach((level, i) => picture.pyramid[i].data.set(level.data));
      }
      picture.version++;
      for (const box of boxes) {
        const laid = await this.laid(
          picture,
          shown.filter((s) => !isEmpty(intersect(s.box, box))),
        );
        await this.pool.run('composite', {
          original: picture.original,
          target: picture.composite,
          pyramid: picture.pyramid,
          box,
          laid,
        });
        picture.dirty.push({ ...box, version: picture.version });
      }
      if (picture.dirty.length > 200) picture.dirty.splice(0, picture.dirty.length - 200);
    }
    picture.shown = shown;
    if (!quiet) this.events.send({ type: 'changed', pictureId: picture.id });
  }

  /** Renders one try over what now lies beneath its repair, keeps it and shows it if it is the chosen one. */
  private async renderTry(
    id: string,
    repairId: string,
    tryId: string,
    signal: AbortSignal,
    onProgress: (f: number) => void,
  ): Promise<void> {
    const picture = await this.get(id);
    const entries = this.stack(picture, await this.store.document(id));
    const at = entries.findIndex((e) => e.repair.id === repairId);
    const spec = entries[at]?.repair.tries.find((t) => t.id === tryId)?.spec;
    if (!spec) return;
    const beneath = beneathFor(spec, entries.slice(0, at), picture.original);
    const key = renderKey(picture.originalHash, spec, beneath);
    const same = picture.index.byKey.get(key);
    if (same) return void picture.index.byTry.set(tryId, same);
    const { patch, packed, reason } = await this.pool.run(
      'render',
      { original: picture.original, beneath: await this.laid(picture, beneath), spec, given: picture.given },
      // What is done by hand is quick, and must not wait for a long fill.
      { heavy: spec.method === 'fill', onProgress, signal },
    );
    const box = { x: patch.x, y: patch.y, width: patch.width, height: patch.height };
    await this.inTurn(id, async () => {
      await this.store.saveRender({ pictureId: id, key, tryId, patch: packed, box, reason });
      picture.patches.set(key, Promise.resolve(patch));
      picture.index.add({ pictureId: id, key, tryId, patch: '', box, reason });
      await this.refresh(picture);
    });
  }

  /** Renders the chosen tries of many repairs from the bottom up, and lays them on in portions. */
  private async renderMany(
    id: string,
    repairIds: string[],
    signal: AbortSignal,
    progress: (done: number) => void,
  ): Promise<void> {
    const picture = await this.get(id);
    const wanted = new Set(repairIds);
    const entries = this.stack(picture, await this.store.document(id));
    let shownAt = Date.now();
    let done = 0;
    for (let at = 0; at < entries.length; at++) {
      const { repair, marks } = entries[at];
      if (!wanted.has(repair.id)) continue;
      if (signal.aborted) throw new Cancelled();
      const { spec } = repair.tries.find((t) => t.id === repair.chosen)!;
      const beneath = beneathFor(spec, entries.slice(0, at), picture.original);
      const key = renderKey(picture.originalHash, spec, beneath);
      let row = picture.index.byKey.get(key);
      if (!row) {
        const { patch, packed, reason } = await this.pool.run(
          'render',
          { original: picture.original, beneath: await this.laid(picture, beneath), spec, given: picture.given },
          { heavy: true, signal },
        );
        const box = { x: patch.x, y: patch.y, width: patch.width, height: patch.height };
        await this.store.saveRender({ pictureId: id, key, tryId: repair.chosen, patch: packed, box, reason });
        picture.patches.set(key, Promise.resolve(patch));
        row = { pictureId: id, key, tryId: repair.chosen, patch: '', box, reason };
        picture.index.add(row);
      }
      entries[at] = {
        ...entries[at],
        shown: {
          repairId: repair.id,
          key,
          box: row.box,
          strength: entries[at].strength,
          marks,
          veil: veilOf(marks),
        },
      };
      progress(++done / repairIds.length);
      if (Date.now() - shownAt > 1200) {
        await this.inTurn(id, () => this.refresh(picture));
        shownAt = Date.now();
      }
    }
    await this.inTurn(id, () => this.refresh(picture));
  }

  /** Takes repairs that were never rendered out of the document again, in one edit. */
  private async withdrawUnrendered(id: string, repairIds: string[]): Promise<void> {
    await this.inTurn(id, async (picture) => {
      const document = await this.store.document(id);
      const missing = document.repairs.filter((r) => repairIds.includes(r.id) && !picture.index.byTry.has(r.chosen));
      if (!missing.length) return;
      const changes = workOutRemoval(document, missing);
      await this.store.applyEdit(id, `Stop before ${missing.length} repairs`, changes);
      await this.refresh(picture);
    });
  }

  /** Takes a fill that never came about out of the document again; what else was edited meanwhile stays. */
  private async withdraw(id: string, repairId: string, tryIds: string[], error: Error): Promise<void> {
    const picture = await this.get(id);
    const document = await this.store.document(id);
    const repair = document.repairs.find((r) => r.id === repairId);
    if (!repair) return;
    if (error instanceof Cancelled === false) console.error(`Fill failed: ${error.message}`);
    const rendered = repair.tries.filter((t) => picture.index.byTry.has(t.id));
    if (rendered.length === repair.tries.length) return;
    if (rendered.length === 0) return this.edit(id, { type: 'removeRepair', id: repairId });
    const kept = rendered.some((t) => t.id === repair.chosen) ? repair.chosen : rendered[rendered.length - 1].id;
    await this.inTurn(id, async () => {
      const after = {
        ...repair,
        tries: repair.tries.filter((t) => !tryIds.includes(t.id) || picture.index.byTry.has(t.id)),
        chosen: kept,
      };
      await this.store.applyEdit(id, 'Stop after the tries so far', [
        { kind: 'repair', id: repairId, before: repair, after },
      ]);
      await this.refresh(picture);
    });
  }

  private settling = new Map<string, Promise<void>>();

  /** Renders, from the bottom up, chosen tries that are not current, then any try that never was rendered, until all are. */
  private settle(id: string): Promise<void> {
    const before = this.settling.get(id) ?? Promise.resolve();
    const mine = before.then(() => this.renderStale(id)).catch((error: Error) => console.error(error.message));
    this.settling.set(id, mine);
    return mine;
  }

  private async renderStale(id: string): Promise<void> {
    if (!(await this.store.picture(id))) return;
    for (;;) {
      // Asked for anew each time: the picture may have been closed and opened again meanwhile.
      const picture = await this.get(id);
      const entries = this.stack(picture, await this.store.document(id));
      const next = nextToRender(picture, entries);
      if (!next) return;
      try {
        await this.tasks.run(id, next.label, (signal, progress) =>
          this.renderTry(id, next.repairId, next.tryId, signal, progress),
        );
      } catch (error) {
        picture.failures.set(
          next.failure,
          error instanceof Cancelled ? 'Updating was cancelled.' : (error as Error).message,
        );
        this.events.send({ type: 'changed', pictureId: id });
      }
    }
  }
}

/** The faults that a repair by hand is to treat, the one among them that it marks itself included. */
function faultsOf(document: PictureDocument, edit: Extract<Edit, { type: 'placeRepair' }>) {
  const own: Array<{ number?: number; kind: FaultKind }> = document.faults.filter((f) => edit.faultIds.includes(f.id));
  return edit.mark ? [...own, edit.mark] : own;
}

/** The try to render next: a chosen one that is not current, else one that a stop of the server left unrendered. */
function nextToRender(picture: OpenPicture, entries: StackEntry[]) {
  const idle = entries.filter((e) => !picture.working.has(e.repair.id));
  const stale = idle.find((e) => !e.current && !picture.failures.has(e.key));
  if (stale) {
    const label = 'Update a repair that samples changed pixels';
    return { repairId: stale.repair.id, tryId: stale.repair.chosen, failure: stale.key, label };
  }
  for (const { repair } of idle) {
    const missing = repair.tries.find((t) => !picture.index.byTry.has(t.id) && !picture.failures.has(t.id));
    if (missing) return { repairId: repair.id, tryId: missing.id, failure: missing.id, label: 'Finish a fill' };
  }
  return undefined;
}

/** Boxes that overlap become one, so that nothing is laid on twice. */
function joined(boxes: Box[]): Box[] {
  const out: Box[] = [];
  for (const box of boxes) {
    let grown = box;
    for (let i = out.length - 1; i >= 0; i--) {
      if (!isEmpty(intersect(out[i], grown))) grown = union(grown, out.splice(i, 1)[0]);
    }
    out.push(grown);
  }
  return out;
}
