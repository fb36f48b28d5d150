import type { Change, Fault, PictureDocument, Repair, Try } from '../../contract/document.ts';
import { boundsOfAll, type Shape } from '../../core/mask/shapes.ts';
import { grow, intersect, isEmpty, type Box } from '../../core/raster/raster.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import { alike } from '../operations.ts';
import { changed } from './parts.ts';
import { hiddenBy } from './proposed.ts';

const known = new WeakMap<Fault, Box>();

/** Box of a fault wherever it lies, worked out once: many repairs of one document ask for it again and again. */
export function boundsOf(fault: Fault): Box {
  let box = known.get(fault);
  if (!box) known.set(fault, (box = grow(boundsOfAll(fault.shapes), 1)));
  return box;
}

/** Other faults whose pixels say nothing of a place. */
export interface Neighbours {
  ids: string[];
  shapes: Shape[];
  /** px by which they exceed their shapes */
  margin: number;
}

/** Most faults of which a repair takes note. */
const MOST = 2_000;

const gathered = (faults: readonly Fault[]): Neighbours => ({
  ids: faults.slice(0, MOST).map((f) => f.id),
  shapes: faults.flatMap(hiddenBy).slice(0, MOST),
  margin: faults.reduce((most, f) => Math.max(most, f.margin + f.feather / 2), 0),
});

/** Other open faults within reach of a repair of some faults. */
export function neighboursOf({ faults }: PictureDocument, ids: readonly string[], reach: Box): Neighbours {
  const own = new Set(ids);
  return gathered(
    faults.filter(
      (f) => f.state === 'open' && !own.has(f.id) && hiddenBy(f).length > 0 && !isEmpty(intersect(boundsOf(f), reach)),
    ),
  );
}

/** Whether a change of a fault is one that those who left it out have to know. */
function matters({ kind, before, after }: Change): boolean {
  if (kind !== 'fault' || !before) return false;
  const [a, b] = [before as Fault, after as Fault | null];
  return !b || a.state !== b.state || a.shapes !== b.shapes || a.margin !== b.margin || a.feather !== b.feather;
}

/** The document's rows of a kind as an edit leaves them. */
function after<T extends { id: string }>(rows: readonly T[], kind: Change['kind'], changes: readonly Change[]): T[] {
  const own = new Map(changes.filter((c) => c.kind === kind).map((c) => [c.id, c.after as T | null]));
  const there = rows.flatMap((r) => (own.has(r.id) ? (own.get(r.id) ?? []) : [r]));
  const ids = new Set(rows.map((r) => r.id));
  return [...there, ...[...own].flatMap(([id, row]) => (row && !ids.has(id) ? [row] : []))];
}

/** Repairs of a document as an edit leaves it, with their place in the pile. */
function pileOf(
  document: PictureDocument,
  changes: readonly Change[],
): { repairs: Repair[]; place: (r: Repair) => number } {
  const repairs = after(document.repairs, 'repair', changes);
  const layers = new Map(after(document.layers, 'layer', changes).map((l) => [l.id, l.order]));
  const order = repairs.slice().sort((a, b) => layers.get(a.layerId)! - layers.get(b.layerId)! || a.order - b.order);
  const at = new Map(order.map((r, n) => [r.id, n]));
  return { repairs, place: (r) => at.get(r.id)! };
}

/** A spec that leaves out what is still there. */
function leavingOut(spec: RepairSpec, repair: Repair, rest: Neighbours): RepairSpec {
  if (spec.method === 'fill' && !repair.portion) {
    const { avoidMargin: _, ...without } = spec;
    return { ...without, avoid: rest.shapes, ...(rest.margin && { avoidMargin: rest.margin }) };
  }
  return spec.method === 'lift' ? { ...spec, avoid: rest.shapes } : spec;
}

/**
 * What an edit of faults changes for the repairs that left them out: one that is treated beneath such a repair, moved or removed, no
 * longer hides what it hid, so the repair is made anew. What is treated above it still lies beneath it as it was.
 * @param changes of the edit
 * @returns changes that come on top
 */
export function ofNeighbours(document: PictureDocument, changes: readonly Change[]): Change[] {
  const touched = new Set(changes.filter(matters).map((c) => c.id));
  if (!touched.size) return [];
  const leaves = (r: Repair) => r.leftOut?.some((id) => touched.has(id)) ?? false;
  if (!document.repairs.some(leaves)) return [];
  const own = new Set(changes.filter((c) => c.kind === 'repair').map((c) => c.id));
  const faults = new Map(after(document.faults, 'fault', changes).map((f) => [f.id, f]));
  const { repairs, place } = pileOf(document, changes);
  return document.repairs.flatMap((repair) => {
    if (!leaves(repair) || own.has(repair.id)) return [];
    const there = repair.leftOut!.flatMap((id) => faults.get(id) ?? []);
    const hides = (f: Fault) =>
      f.state === 'open' ||
      (f.state !== 'left' && !repairs.some((r) => r.faultIds.includes(f.id) && place(r) < place(repair)));
    const rest = gathered(there.filter(hides));
    const tries = repair.tries.map((t): Try => ({ ...t, spec: leavingOut(t.spec, repair, rest) }));
    return alike(tries, repair.tries) ? [] : [changed('repair', repair, { ...repair, tries })];
  });
}

/** An edit with what it means for the repairs that left out what it changes. */
export const withNeighbours = <P extends { changes: Change[] }>(document: PictureDocument, planned: P): P => {
  const more = ofNeighbours(document, planned.changes);
  return more.length ? { ...planned, changes: [...planned.changes, ...more] } : planned;
};
