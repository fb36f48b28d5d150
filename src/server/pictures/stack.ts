import { marksOf } from '../../document/edits/layers.ts';
import type { Layer, PictureDocument, Repair } from '../../contract/document.ts';
import type { Sign } from '../../core/check/finding.ts';
import type { RevealMark } from '../../core/mask/reveal.ts';
import { intersect, isEmpty, type Box } from '../../core/raster/raster.ts';
import { fieldOf, readBox } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import type { RenderRow } from '../store/renders.ts';
import { keyOf, revealName } from './keys.ts';

/** A rendering as it lies on the picture: its key, its place and its strength. */
export interface PlacedPatch {
  repairId: string;
  key: string;
  box: Box;
  strength: number;
  /** what is hidden and shown of it */
  marks: readonly RevealMark[];
  /** names the marks; empty when there are none */
  reveal: string;
}

/** One repair in the stack, with what rendering it would depend on. */
export interface StackEntry {
  repair: Repair;
  /** strength with the layer's opacity and both visibilities */
  strength: number;
  /** key of the chosen try over the present pixels beneath */
  key: string;
  /** rendering in use: the current one, an older one of the same try, or none */
  shown: PlacedPatch | null;
  current: boolean;
  /** what is hidden and shown of it */
  marks: readonly RevealMark[];
  beneath: PlacedPatch[];
}

/** Renderings by key, and the newest by try. */
export class RenderIndex {
  readonly byKey = new Map<string, RenderRow>();
  readonly byTry = new Map<string, RenderRow>();
  /** grows with every change */
  version = 0;

  constructor(rows: RenderRow[] = []) {
    for (const row of rows) this.add(row);
  }

  add(row: RenderRow): void {
    this.version++;
    this.byKey.set(row.key, row);
    this.byTry.set(row.tryId, row);
  }

  /** Lets a try be shown by a rendering of another one that is alike. */
  alias(tryId: string, row: RenderRow): void {
    if (this.byTry.get(tryId) === row) return;
    this.version++;
    this.byTry.set(tryId, row);
  }

  /** Notes what checks object to in a rendering. */
  judge(key: string, signs: Sign[]): void {
    const old = this.byKey.get(key);
    if (!old) return;
    this.version++;
    const row = { ...old, signs };
    this.byKey.set(key, row);
    for (const [tryId, own] of this.byTry) if (own === old) this.byTry.set(tryId, row);
  }

  remove(keys: readonly string[]): void {
    if (keys.length) this.version++;
    for (const key of keys) {
      const row = this.byKey.get(key);
      this.byKey.delete(key);
      if (row && this.byTry.get(row.tryId) === row) this.byTry.delete(row.tryId);
    }
  }
}

/** Repairs from the bottom up: by layer, then by their own order. */
export function inOrder(document: PictureDocument): Array<{ repair: Repair; layer: Layer }> {
  const byLayer = new Map<string, Repair[]>(document.layers.map((l) => [l.id, []]));
  for (const repair of document.repairs) byLayer.get(repair.layerId)?.push(repair);
  return document.layers.flatMap((layer) => byLayer.get(layer.id)!.map((repair) => ({ repair, layer })));
}

/** JSON of what lies beneath, as it goes into a key. */
const beneathText = (beneath: PlacedPatch[]): string =>
  JSON.stringify(beneath.map((s) => (s.reveal ? [s.key, s.strength, s.reveal] : [s.key, s.strength])));

/** Names the outcome of rendering a spec over given pixels: the base and what lies on it within reach. */
export const renderKey = (base: string, spec: RepairSpec, beneath: PlacedPatch[]): string =>
  keyOf(base, spec, beneathText(beneath));

const reaches = new WeakMap<RepairSpec, { width: number; height: number; box: Box }>();

/** What a spec may read, worked out once. */
function reachOf(spec: RepairSpec, { width, height }: { width: number; height: number }): Box {
  const known = reaches.get(spec);
  if (known && known.width === width && known.height === height) return known.box;
  const box = readBox(spec, fieldOf(spec, { width, height }));
  reaches.set(spec, { width, height, box });
  return box;
}

/** Cells of the ground plan, px. */
const CELL = 512;

/** Where renderings lie, so that those within a box are found without asking all. */
class GroundPlan {
  private readonly cells = new Map<number, number[]>();

  private each(box: Box, visit: (cell: number) => void): void {
    const [x0, y0] = [Math.floor(box.x / CELL), Math.floor(box.y / CELL)];
    const [x1, y1] = [Math.floor((box.x + box.width - 1) / CELL), Math.floor((box.y + box.height - 1) / CELL)];
    for (let y = y0; y <= y1; y++) for (let x = x0; x <= x1; x++) visit(y * 100_003 + x);
  }

  add(n: number, box: Box): void {
    this.each(box, (cell) => {
      const own = this.cells.get(cell);
      if (own) own.push(n);
      else this.cells.set(cell, [n]);
    });
  }

  /** Numbers of those whose cells meet a box, in rising order. */
  near(box: Box): number[] {
    const found = new Set<number>();
    this.each(box, (cell) => this.cells.get(cell)?.forEach((n) => found.add(n)));
    return [...found].sort((a, b) => a - b);
  }
}

const shows = (s: PlacedPatch | null): s is PlacedPatch => s !== null && s.strength > 0 && s.box.width > 0;

/** What lies beneath a spec within its reach, given the entries below it. */
export function beneathFor(
  spec: RepairSpec,
  below: readonly StackEntry[],
  size: { width: number; height: number },
): PlacedPatch[] {
  const reach = reachOf(spec, size);
  return below.flatMap((e) => (shows(e.shown) && !isEmpty(intersect(e.shown.box, reach)) ? [e.shown] : []));
}

const sameList = <T>(a: readonly T[], b: readonly T[]) => a.length === b.length && a.every((v, i) => v === b[i]);

/** An earlier answer of {@link stackOf}, and the layers it was worked out for. */
export interface StackBefore {
  layers: readonly Layer[];
  entries: ReadonlyMap<string, StackEntry>;
}

/** A repair as it stands: its rendering for a key, or until there is one an older one of its chosen try. */
function entryOf(repair: Repair, layer: Layer, key: string, beneath: PlacedPatch[], index: RenderIndex): StackEntry {
  const marks = marksOf(repair, layer);
  const strength = layer.visible && repair.visible ? repair.strength * layer.opacity : 0;
  const row = index.byKey.get(key) ?? index.byTry.get(repair.chosen);
  const shown = row
    ? { repairId: repair.id, key: row.key, box: row.box, strength, marks, reveal: revealName(marks) }
    : null;
  return { repair, strength, key, shown, current: row?.key === key, marks, beneath };
}

/** Whether an entry is as it was before, apart from what lies beneath. */
const standsAs = (old: StackEntry, now: StackEntry): boolean =>
  old.key === now.key &&
  old.strength === now.strength &&
  old.current === now.current &&
  (old.shown?.key ?? null) === (now.shown?.key ?? null);

/**
 * Works out, from the bottom up, which rendering each repair needs and which is at hand.
 * @param before an earlier answer; entries of it that are still right are the same objects, and cost next to nothing
 */
export function stackOf(
  document: PictureDocument,
  base: string,
  size: { width: number; height: number },
  index: RenderIndex,
  before?: StackBefore,
): StackEntry[] {
  const entries: StackEntry[] = [];
  const plan = new GroundPlan();
  let planned = 0;
  const known = before && sameList(before.layers, document.layers) ? before.entries : undefined;
  /** where something lies otherwise than before */
  const touched: Box[] = [];
  const touch = (s: PlacedPatch | null | undefined) => s && s.box.width > 0 && touched.push(s.box);
  if (known) {
    // Repairs that went or changed, which may have moved, count from below: what stood above them sees something else.
    const there = new Map(document.repairs.map((r) => [r.id, r]));
    for (const [id, old] of known) if (there.get(id) !== old.repair) touch(old.shown);
  }
  const beneathOf = (reach: Box): PlacedPatch[] => {
    for (; planned < entries.length; planned++) {
      const { shown } = entries[planned];
      if (shows(shown)) plan.add(planned, shown.box);
    }
    const near = plan.near(reach).map((n) => entries[n].shown!);
    return near.filter((s) => !isEmpty(intersect(s.box, reach)));
  };
  for (const { repair, layer } of inOrder(document)) {
    const marks = marksOf(repair, layer);
    const { spec } = repair.tries.find((t) => t.id === repair.chosen)!;
    const reach = reachOf(spec, size);
    const old = known?.get(repair.id);
    const same = old?.repair === repair && old.marks === marks ? old : undefined;
    const still = same && !touched.some((box) => !isEmpty(intersect(box, reach)));
    const beneath = still ? same.beneath : beneathOf(reach);
    const key = same && (still || sameList(same.beneath, beneath)) ? same.key : renderKey(base, spec, beneath);
    const entry = entryOf(repair, layer, key, beneath, index);
    if (same && standsAs(same, entry)) {
      entries.push(same.beneath === beneath ? same : { ...same, beneath });
      continue;
    }
    entries.push(entry);
    touch(old?.shown);
    touch(entry.shown);
  }
  return entries;
}

/** Boxes in which two lists of placed renderings give different pixels. */
export function difference(all: readonly PlacedPatch[], next: readonly PlacedPatch[]): Box[] {
  const same = (a: PlacedPatch, b: PlacedPatch) =>
    a === b || (a.repairId === b.repairId && a.key === b.key && a.strength === b.strength && a.reveal === b.reveal);
  // What both begin and end with is alike in most cases: only what lies between is looked at.
  const most = Math.min(all.length, next.length);
  let head = 0;
  while (head < most && same(all[head], next[head])) head++;
  let tail = 0;
  while (tail < most - head && same(all[all.length - 1 - tail], next[next.length - 1 - tail])) tail++;
  const before = all.slice(head, all.length - tail);
  const after = next.slice(head, next.length - tail);
  const kept = new Set<PlacedPatch>();
  const places = new Map<string, number[]>();
  before.forEach((a, i) => places.set(a.repairId, [...(places.get(a.repairId) ?? []), i]));
  let from = 0;
  for (const b of after) {
    const at = places.get(b.repairId)?.find((i) => i >= from && same(before[i], b));
    if (at === undefined) continue;
    kept.add(before[at]);
    kept.add(b);
    from = at + 1;
  }
  return [...before, ...after].filter((s) => !kept.has(s) && s.box.width > 0).map((s) => s.box);
}

/** Boxes that overlap become one, so that nothing is laid on twice. */
export function joinedBoxes(boxes: Box[]): Box[] {
  const out: Box[] = [];
  for (const box of boxes) {
    let grown = box;
    for (let i = out.length - 1; i >= 0; i--) {
      const { x, y, width, height } = out[i];
      if (isEmpty(intersect(out[i], grown))) continue;
      out.splice(i, 1);
      const [right, bottom] = [
        Math.max(grown.x + grown.width, x + width),
        Math.max(grown.y + grown.height, y + height),
      ];
      const [left, top] = [Math.min(grown.x, x), Math.min(grown.y, y)];
      grown = { x: left, y: top, width: right - left, height: bottom - top };
      i = out.length;
    }
    out.push(grown);
  }
  return out;
}

/** Whether the rendering of an entry lies on the picture, as far as anything of it is to be seen. */
export const isLaid = ({ shown }: StackEntry, laid: ReadonlySet<string>): boolean =>
  !shown || shown.strength === 0 || isEmpty(shown.box) || laid.has(shown.key);
