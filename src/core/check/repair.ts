import { compositeOver, type Patch } from '../raster/patch.ts';
import { rasterise, type Shape } from '../mask/shapes.ts';
import { grow, intersect, isEmpty } from '../raster/raster.ts';
import type { Beneath } from '../repair/method.ts';
import type { RepairSpec } from '../repair/spec.ts';
import { signsOf } from './check.ts';
import type { Sign } from './finding.ts';
import { aroundOf, placeIn } from './place.ts';
import { softEdge } from './soft-edge.ts';

/** Share of the full alpha from which on a pixel counts as covered. */
const COVERED = 0.5;

/** Shapes that say nothing of a repair: the open faults that it had to leave out. */
const leftOut = (spec: RepairSpec): readonly Shape[] => ('avoid' in spec ? spec.avoid : []);

/**
 * What a repair gives away, as it was rendered over what lies beneath it.
 * @returns nothing for what covers nothing, for layers that came with a file and for strips
 */
export function signsOfRepair(beneath: Beneath, spec: RepairSpec, patch: Patch): Sign[] {
  // A strip is something new with edges of its own: nothing beneath says how it should look.
  if (isEmpty(patch) || spec.method === 'given' || spec.method === 'strip') return [];
  const { x = 0, y = 0, width, height } = beneath;
  const frame = intersect(grow(patch, aroundOf(patch)), { x, y, width, height });
  const before = beneath.read(frame);
  const after = beneath.read(frame);
  compositeOver(after, frame, patch, 1);
  const avoid = leftOut(spec);
  const unknown = avoid.length ? rasterise(avoid, frame).data : null;
  const what = new Uint8Array(frame.width * frame.height);
  if (unknown) for (let i = 0; i < what.length; i++) what[i] = unknown[i] ? 2 : 0;
  const full = COVERED * (patch.depth === 16 ? 65535 : 255);
  for (let v = 0; v < patch.height; v++)
    for (let u = 0; u < patch.width; u++)
      if (patch.data[(v * patch.width + u) * patch.channels + patch.channels - 1] >= full)
        what[(patch.y - frame.y + v) * frame.width + patch.x - frame.x + u] = 1;
  const place = placeIn({ after, before, what, width: frame.width, height: frame.height }, frame);
  const ghost = softEdge(beneath, spec);
  // Tone that is off, and an edge that shows, beside what is left of a fault come from that: a wider margin mends all of it.
  const others = signsOf(place).filter(({ kind }) => !ghost.length || (kind !== 'tone-step' && kind !== 'seam'));
  return [...ghost, ...others];
}
