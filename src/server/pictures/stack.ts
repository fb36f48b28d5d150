import { createHash } from 'node:crypto';
import type { Layer, PictureDocument, Repair } from '../../contract/document.ts';
import type { RevealMark } from '../../core/mask/reveal.ts';
import { intersect, isEmpty, type Box } from '../../core/raster/raster.ts';
import { readBox } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import type { RenderRow } from '../store/store.ts';

/** A rendering that can be shown: its key, its place and the strength with which it lies on the picture. */
export interface Shown {
  repairId: string;
  key: string;
  box: Box;
  strength: number;
  /** what is hidden and shown of it */
  marks: readonly RevealMark[];
  /** names the marks; empty when there are none */
  veil: string;
}

/** One repair in the stack, with what rendering it would depend on. */
export interface StackEntry {
  repair: Repair;
  layerVisible: boolean;
  /** strength with the layer's opacity and both visibilities */
  strength: number;
  /** key of the chosen try over the present pixels beneath */
  key: string;
  /** rendering in use: the current one, an older one of the same try, or none */
  shown: Shown | null;
  current: boolean;
  /** what is hidden and shown of it */
  marks: readonly RevealMark[];
  beneath: Shown[];
}

/** Renderings by key, and the newest by try. */
export class RenderIndex {
  readonly byKey = new Map<string, RenderRow>();
  readonly byTry = new Map<string, RenderRow>();

  constructor(rows: RenderRow[] = []) {
    for (const row of rows) this.add(row);
  }

  add(row: RenderRow): void {
    this.byKey.set(row.key, row);
    this.byTry.set(row.tryId, row);
  }
}

/** Repairs from the bottom up: by layer, then by their own order. */
export function inOrder(document: PictureDocument): Array<{ repair: Repair; layer: Layer }> {
  return document.layers.flatMap((layer) =>
    document.repairs.filter((r) => r.layerId === layer.id).map((repair) => ({ repair, layer })),
  );
}

const veils = new WeakMap<readonly RevealMark[], string>();

/** Short name of reveal marks, worked out once. */
export function veilOf(marks: readonly RevealMark[]): string {
  if (!marks.length) return '';
  let name = veils.get(marks);
  if (!name) veils.set(marks, (name = createHash('sha256').update(JSON.stringify(marks)).digest('hex').slice(0, 20)));
  return name;
}

/** What is hidden and shown of a repair: its own marks and those of its layer. */
export function marksOf(repair: Repair, layer: Layer): readonly RevealMark[] {
  const own = repair.reveal ?? [];
  const all = layer.reveal ?? [];
  return own.length && all.length ? [...own, ...all] : own.length ? own : all;
}

/** Names the outcome of rendering a spec over given pixels: the original's hash and what lies on it within reach. */
export function renderKey(original: string, spec: RepairSpec, beneath: Shown[]): string {
  const parts = beneath.map((s) => (s.veil ? [s.key, s.strength, s.veil] : [s.key, s.strength]));
  return createHash('sha256')
    .update(JSON.stringify([original, spec, parts]))
    .digest('hex');
}

/** Works out, from the bottom up, which rendering each repair needs and which is at hand. */
export function stackOf(
  document: PictureDocument,
  original: string,
  size: { width: number; height: number },
  index: RenderIndex,
): StackEntry[] {
  const entries: StackEntry[] = [];
  for (const { repair, layer } of inOrder(document)) {
    const { opacity, visible } = layer;
    const marks = marksOf(repair, layer);
    const spec = repair.tries.find((t) => t.id === repair.chosen)!.spec;
    const beneath = beneathFor(spec, entries, size);
    const key = renderKey(original, spec, beneath);
    const row = index.byKey.get(key) ?? index.byTry.get(repair.chosen);
    const strength = visible && repair.visible ? repair.strength * opacity : 0;
    entries.push({
      repair,
      layerVisible: visible,
      strength,
      key,
      shown: row ? { repairId: repair.id, key: row.key, box: row.box, strength, marks, veil: veilOf(marks) } : null,
      current: row?.key === key,
      marks,
      beneath,
    });
  }
  return entries;
}

/** What lies beneath a spec within its reach, given the entries below it. */
export function beneathFor(spec: RepairSpec, below: StackEntry[], size: { width: number; height: number }): Shown[] {
  const reach = readBox(spec, size.width, size.height);
  return below.flatMap((e) =>
    e.shown && e.shown.strength > 0 && !isEmpty(intersect(e.shown.box, reach)) ? [e.shown] : [],
  );
}

/** Boxes in which two lists of shown renderings give different pixels. */
export function difference(before: Shown[], after: Shown[]): Box[] {
  const same = (a: Shown, b: Shown) =>
    a.repairId === b.repairId && a.key === b.key && a.strength === b.strength && a.veil === b.veil;
  const kept = new Set<Shown>();
  let from = 0;
  for (const b of after) {
    const at = before.findIndex((a, i) => i >= from && same(a, b));
    if (at < 0) continue;
    kept.add(before[at]);
    kept.add(b);
    from = at + 1;
  }
  return [...before, ...after].filter((s) => !kept.has(s) && s.box.width > 0).map((s) => s.box);
}
