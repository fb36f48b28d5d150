import { isEarlier } from '../../core/repair/registry.ts';
import { randomBytes } from 'node:crypto';
import type { RepairStatus } from '../../contract/api.ts';
import type { Operation, PictureDocument } from '../../contract/document.ts';
import { shiftShapes, type Shape } from '../../core/mask/shapes.ts';
import type { Patch } from '../../core/raster/patch.ts';
import { intersect, isEmpty, type Box, type Raster } from '../../core/raster/raster.ts';
import { type Limits } from '../../codec/limits.ts';
import { Refused } from '../../contract/refused.ts';
import type { GivenLayer } from '../../codec/decoded.ts';
import { applyOperations } from '../../document/operations.ts';
import type { StoreClient } from '../store/client.ts';
import type { Pool } from '../work/pool.ts';
import type { Sized } from './cache.ts';
import { specsOf } from '../../document/canvas.ts';
import { baseKey } from './keys.ts';
import { CanvasView } from './canvas-view.ts';
import { Changes } from './changes.ts';
import { LastEdit } from './last-edit.ts';
import { Patches } from './patches.ts';
import {
  difference,
  isLaid,
  joinedBoxes,
  RenderIndex,
  stackOf,
  type PlacedPatch,
  type StackBefore,
  type StackEntry,
} from './stack.ts';

/** Where an open picture gets its pixels from. */
export interface Sources {
  store: StoreClient;
  pool: Pool;
  limits: Limits;
  /** renderings kept in memory for each picture, at most */
  patchBytes: number;
}

/** How a try will about look, until it is rendered. */
interface Sketch {
  key: string;
  tryId: string;
  box: Box;
}

/** How each repair stands, and what that was worked out from. */
type Statuses = Map<string, { entry: StackEntry; rows: unknown[]; status: RepairStatus }>;

/** Names an opening of a picture on one canvas. */
const newEpoch = () => Date.now().toString(36) + randomBytes(4).toString('hex');

/** A picture in work: its document and its pixels in memory, its repairs laid on as the document says. */
export class OpenPicture implements Sized {
  /** the picture on its canvas, before and after its repairs */
  readonly view: CanvasView;
  /** renderings as they lie on the composite */
  placed: PlacedPatch[] = [];
  /** repairs, and tries, that could not be rendered, with the reason */
  private readonly failed = new Map<string, string>();
  /** by try: how those about look that are being rendered */
  private readonly sketches = new Map<string, Sketch>();
  /** repairs that somebody renders at present */
  readonly working = new Set<string>();
  changes: Changes;
  readonly index: RenderIndex;
  readonly patches: Patches;
  private stackOfNow: { document: PictureDocument; version: number; entries: StackEntry[] } | null = null;
  private before: StackBefore | undefined;
  /** what the statuses were worked out from last */
  private statusesOf: {
    entries: StackEntry[];
    version: number;
    placed: PlacedPatch[];
    statuses: RepairStatus[];
  } | null = null;
  private statusOf: Statuses = new Map();
  /** who made the last edit since the picture was opened */
  readonly lastEdit = new LastEdit();

  private constructor(
    readonly id: string,
    readonly original: Raster,
    pyramid: Raster[],
    private readonly sourceHash: string,
    readonly icc: Uint8Array | null,
    readonly given: GivenLayer[],
    public document: PictureDocument,
    public revision: number,
    /** what undo and redo would do */
    public steps: { undo: string | null; redo: string | null },
    index: RenderIndex,
    private readonly sources: Sources,
  ) {
    this.view = new CanvasView({ raster: original, pyramid }, sources.pool);
    this.index = index;
    this.patches = new Patches(sources.store, sources.pool, index, sources.patchBytes);
    this.changes = new Changes(newEpoch(), original.width, original.height);
  }

  /** names the pixels that the repairs are laid on */
  get baseKey(): string {
    return baseKey(this.sourceHash, specsOf(this.document));
  }

  /** the picture with its repairs, from the canvas' corner on */
  get composite(): Raster {
    return this.view.after.raster;
  }

  static async load(id: string, sources: Sources): Promise<OpenPicture> {
    const { store, pool, limits } = sources;
    const row = await store.picture(id);
    if (!row) throw new Refused('This picture no longer exists.', 404);
    const [file, renders, document, steps] = await Promise.all([
      store.readBlob(row.original),
      store.rendersOf(id),
      store.document(id),
      store.steps(id),
    ]);
    const { raster, pyramid, icc, layers } = await pool.run('open', { file, fileName: row.name, limits });
    const index = new RenderIndex(renders);
    const picture = new OpenPicture(
      id, raster, pyramid, row.original, icc, layers, document, row.revision, steps, index, sources,
    ); // prettier-ignore
    await picture.refresh();
    return picture;
  }

  bytes(): number {
    return this.view.bytes() + this.patches.bytes();
  }

  /** Shapes in px of the canvas. */
  onCanvas(shapes: readonly Shape[]): Shape[] {
    const { x, y } = this.view.box;
    return x || y ? shiftShapes(shapes, -x, -y) : [...shapes];
  }

  /** Shapes in px of the canvas, where they lie in the base. */
  offCanvas(shapes: readonly Shape[]): Shape[] {
    const { x, y } = this.view.box;
    return x || y ? shiftShapes(shapes, x, y) : [...shapes];
  }

  /** Takes over what an edit changed, once it is on disk. */
  edited(operations: readonly Operation[], revision: number, steps: OpenPicture['steps']): void {
    this.document = applyOperations(this.document, operations);
    this.revision = revision;
    this.steps = steps;
    this.changes.edited(operations);
  }

  /** Repairs from the bottom up, with what each depends on and which rendering of it is at hand. */
  stack(): StackEntry[] {
    const now = this.stackOfNow;
    if (now && now.document === this.document && now.version === this.index.version) return now.entries;
    const entries = stackOf(this.document, this.baseKey, this.original, this.index, this.before);
    this.before = { layers: this.document.layers, entries: new Map(entries.map((e) => [e.repair.id, e])) };
    this.stackOfNow = { document: this.document, version: this.index.version, entries };
    return entries;
  }

  /** Why a repair or a try could not be rendered, by its key or its id; undefined where it could. */
  failureOf(key: string): string | undefined {
    return this.failed.get(key);
  }

  /** Notes that a repair or a try could not be rendered; it is not tried again until that is forgotten. */
  fail(key: string, reason: string): void {
    this.failed.set(key, reason);
    this.statusesOf = null;
  }

  /** Shows how a try will about look, until {@link dropSketches}. */
  sketch(tryId: string, patch: Patch): void {
    const { x, y, width, height } = patch;
    const key = `sketch-${tryId}`;
    this.patches.pin(key, patch);
    this.sketches.set(tryId, { key, tryId, box: { x, y, width, height } });
    this.statusesOf = null;
  }

  /** A sketch by its key. */
  sketchOf(key: string): Sketch | undefined {
    return [...this.sketches.values()].find((s) => s.key === key);
  }

  /** Lets go of sketches, once what is shown in their place is laid on. */
  dropSketches(tryIds: readonly string[]): void {
    for (const id of tryIds) {
      const sketch = this.sketches.get(id);
      if (!sketch || this.placed.some((s) => s.key === sketch.key)) continue;
      this.sketches.delete(id);
      this.patches.unpin(sketch.key);
      this.statusesOf = null;
    }
  }

  /** What lies on the picture for an entry of the stack: its rendering, or until there is one its sketch. */
  private placedFor({ shown, repair, strength, marks }: StackEntry): PlacedPatch[] {
    if (shown) return shown.strength > 0 ? [shown] : [];
    const sketch = this.sketches.get(repair.chosen);
    if (!sketch || strength <= 0 || this.index.byTry.has(repair.chosen)) return [];
    return [{ repairId: repair.id, key: sketch.key, box: sketch.box, strength, marks, reveal: '' }];
  }

  forgetFailures(): void {
    this.failed.clear();
    this.statusesOf = null;
  }

  /** How the repairs stand, brought up to date. */
  statuses(): RepairStatus[] {
    const entries = this.stack();
    const { version } = this.index;
    const known = this.statusesOf;
    if (known?.entries === entries && known.version === version && known.placed === this.placed) return known.statuses;
    const laid = new Set(this.placed.map((s) => s.key));
    const next: Statuses = new Map();
    const statuses = entries.map((entry) => {
      const { repair } = entry;
      const rows = [
        ...repair.tries.map(
          (t) =>
            (t.id === repair.chosen ? this.index.byKey.get(entry.key) : undefined) ??
            this.index.byTry.get(t.id) ??
            this.sketches.get(t.id),
        ),
        this.failed.get(entry.key),
        isLaid(entry, laid),
      ];
      const old = this.statusOf.get(repair.id);
      const sameRows = old?.rows.length === rows.length && old.rows.every((r, i) => r === rows[i]);
      const status =
        old?.entry === entry && sameRows
          ? old.status
          : this.statusFor(
              entry,
              isLaid(entry, laid),
              sameRows && old?.entry.repair === repair ? old.status.tries : undefined,
            );
      next.set(repair.id, { entry, rows, status });
      return status;
    });
    this.statusOf = next;
    this.statusesOf = { entries, version, placed: this.placed, statuses };
    this.changes.stand(statuses);
    return statuses;
  }

  private statusFor(entry: StackEntry, laid: boolean, known?: RepairStatus['tries']): RepairStatus {
    const { repair } = entry;
    const tries: RepairStatus['tries'] = known ?? {};
    for (const t of known ? [] : repair.tries) {
      const own = t.id === repair.chosen ? this.index.byKey.get(entry.key) : undefined;
      const row = own ?? this.index.byTry.get(t.id);
      const sketch = row ? undefined : this.sketches.get(t.id);
      if (row) {
        const { key, reason, box, signs } = row;
        tries[t.id] = { ready: true, key, reason, box, ...(signs && { signs }) };
      }
      if (sketch)
        tries[t.id] = { ready: false, key: sketch.key, reason: 'A sketch of it; it is being made.', box: sketch.box };
    }
    const failed = this.failed.get(entry.key);
    // A window lets go of its own drawing once a repair is shown: not before its pixels are there.
    const state = entry.current && laid ? 'shown' : failed ? 'failed' : entry.shown ? 'stale' : 'working';
    const earlier = isEarlier(repair.tries.find((t) => t.id === repair.chosen)!.spec);
    return { id: repair.id, state, tries, message: failed, ...(earlier && { earlier }) };
  }

  /** Lays on what the document now says, where it differs from what is shown. One at a time. */
  async refresh(): Promise<void> {
    const { view } = this;
    if (await view.follow(this.document)) {
      // Tiles are others from here on: windows read everything again.
      this.changes = new Changes(newEpoch(), view.box.width, view.box.height);
      this.statusesOf = null;
      this.placed = [];
    }
    const placed = this.stack().flatMap((e) => this.placedFor(e));
    const boxes = joinedBoxes(difference(this.placed, placed));
    if (boxes.length) {
      const painted: Box[] = [];
      for (const box of boxes) {
        const layers = await this.patches.layers(placed.filter((s) => !isEmpty(intersect(s.box, box))));
        painted.push(view.onCanvas(await view.refresh(box, layers)));
      }
      // Only now: a tile that is asked for under the new version must not show the old pixels for ever.
      this.changes.painted(painted.filter((b) => !isEmpty(b)));
      const still = new Set(placed.map((s) => `${s.key}.${s.reveal}`));
      for (const s of this.placed) if (!still.has(`${s.key}.${s.reveal}`)) this.patches.drop(s);
    }
    this.placed = placed;
  }
}
