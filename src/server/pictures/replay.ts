import { marksOf } from '../../document/edits/layers.ts';
import type { PictureDocument, Repair } from '../../contract/document.ts';
import { beneathOf } from '../../core/chain/chain.ts';
import { revealPatch } from '../../core/mask/reveal.ts';
import type { Raster } from '../../core/raster/raster.ts';
import type { Patch } from '../../core/raster/patch.ts';
import { isEarlier, renderRepair } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import type { GivenLayer } from '../../codec/decoded.ts';
import { beneathFor, inOrder, renderKey, type PlacedPatch, type StackEntry } from './stack.ts';
import { specsOf } from '../../document/canvas.ts';
import { baseKey, revealName } from './keys.ts';

/** What a replay found. */
export interface Replay {
  /** renderings made anew and compared */
  compared: number;
  /** samples compared, bytes */
  bytes: number;
  /** repairs whose rendering differs from the one that is kept */
  different: string[];
  /** repairs that are shown by an older rendering, or not at all, since the current one is not kept */
  missing: string[];
  /** repairs that cannot be rendered, as the picture says too, with the reason */
  impossible: string[];
  /** repairs made by an earlier version of their method, which cannot be repeated: they are taken as they are kept */
  earlier: string[];
}

/** A picture to be replayed, and what is kept of it. */
export interface Replayed {
  sourceHash: string;
  original: Raster;
  given: GivenLayer[];
  document: PictureDocument;
  /** the rendering kept under a key, null when there is none */
  stored(key: string): Patch | null;
}

function same(a: Patch, b: Patch): boolean {
  if (a.x !== b.x || a.y !== b.y || a.width !== b.width || a.height !== b.height) return false;
  if (a.channels !== b.channels || a.depth !== b.depth) return false;
  const bytes = ({ data }: Patch) => Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  return bytes(a).equals(bytes(b));
}

/**
 * Renders a picture anew from its original and its specs alone, from the bottom up, and compares every byte with what is kept.
 * Nothing that is kept is used on the way.
 */
export function replay(picture: Replayed, onRepair: (name: string) => void = () => undefined): Replay {
  const { original, given, document } = picture;
  const base = baseKey(picture.sourceHash, specsOf(document));
  const out: Replay = { compared: 0, bytes: 0, different: [], missing: [], impossible: [], earlier: [] };
  const entries: StackEntry[] = [];
  /** what was rendered anew, as its marks leave it */
  const made = new Map<string, Patch>();
  const nameOf = (repair: Repair) => {
    const numbers = document.faults.filter((f) => repair.faultIds.includes(f.id)).map((f) => f.number);
    return `repair ${repair.id} (fault ${numbers.join(', ') || 'removed'})`;
  };
  const render = (spec: RepairSpec, beneath: PlacedPatch[]): Patch => {
    const layers = beneath.map((s) => ({ patch: made.get(s.repairId)!, strength: s.strength }));
    return renderRepair(
      beneathOf(original, layers, spec, (n) => given[n]?.patch),
      spec,
    ).patch;
  };
  const compare = (patch: Patch, key: string, name: string, shown: boolean) => {
    const kept = picture.stored(key);
    if (!kept) {
      if (shown) out.missing.push(name);
      return;
    }
    out.compared++;
    out.bytes += kept.data.byteLength;
    if (!same(patch, kept)) out.different.push(name);
  };
  for (const { repair, layer } of inOrder(document)) {
    const name = nameOf(repair);
    onRepair(name);
    for (const { id, spec } of repair.tries) {
      if (id === repair.chosen) continue;
      const beneath = beneathFor(spec, entries, original);
      const key = renderKey(base, spec, beneath);
      if (!isEarlier(spec) && picture.stored(key)) compare(render(spec, beneath), key, `${name}, another try`, false);
    }
    const { spec } = repair.tries.find((t) => t.id === repair.chosen)!;
    const beneath = beneathFor(spec, entries, original);
    const key = renderKey(base, spec, beneath);
    let patch: Patch;
    try {
      const kept = isEarlier(spec) ? picture.stored(key) : null;
      if (isEarlier(spec)) out.earlier.push(name);
      if (isEarlier(spec) && !kept) {
        out.missing.push(name);
        continue;
      }
      patch = kept ?? render(spec, beneath);
    } catch (error) {
      // It was refused before, too: then there is nothing kept of it either.
      if (picture.stored(key)) out.different.push(name);
      else out.impossible.push(`${name}: ${(error as Error).message}`);
      continue;
    }
    if (!isEarlier(spec)) compare(patch, key, name, true);
    const marks = marksOf(repair, layer);
    made.set(repair.id, revealPatch(patch, marks));
    const strength = layer.visible && repair.visible ? repair.strength * layer.opacity : 0;
    const { x, y, width, height } = patch;
    const placed = {
      repairId: repair.id,
      key,
      box: { x, y, width, height },
      strength,
      marks,
      reveal: revealName(marks),
    };
    entries.push({ repair, strength, key, shown: placed, current: true, marks, beneath });
  }
  return out;
}
