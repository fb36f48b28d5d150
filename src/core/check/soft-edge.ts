import { boundsWithin, shiftShapes } from '../mask/shapes.ts';
import { growWithin, isEmpty } from '../raster/raster.ts';
import type { Beneath } from '../repair/method.ts';
import type { RepairSpec } from '../repair/spec.ts';
import { measureEnds } from './ends.ts';
import { SOFT_EDGE, type Sign } from './finding.ts';
import { CLEAR_SPREAD, leftAt } from './reach.ts';

/** px of a soft edge beyond a cover that nobody sees. */
const UNSEEN = 2;
/** px around a cover that are looked at. */
const LOOK = 112;
/** CIEDE2000 that the rest of a soft edge differs by, a px that it runs on: it fades out to nothing. */
const FADES = 0.8;
const MOST = 12;
/** CIEDE2000 that a level of 255 is about, in mid-tones; and from which on what is left right beside a cover is seen. */
const LEVEL = 0.4;
const GHOST = 1.5;

/**
 * A fault's soft edge that runs on beyond its cover, measured on the picture beneath: a fill takes up its tone, so that nothing jumps at
 * the border.
 */
export function softEdge(beneath: Beneath, spec: RepairSpec): Sign[] {
  if (spec.method !== 'fill') return [];
  const { x = 0, y = 0, width, height } = beneath;
  const bounds = boundsWithin(spec.cover, { x, y, width, height });
  if (isEmpty(bounds)) return [];
  const inside = growWithin({ ...bounds, x: bounds.x - x, y: bounds.y - y }, LOOK, width, height);
  const frame = { ...inside, x: inside.x + x, y: inside.y + y };
  const here = (shapes: typeof spec.cover) => shiftShapes(shapes, -frame.x, -frame.y);
  const ends = measureEnds(beneath.read(frame), here(spec.cover), here(spec.avoid), true);
  if (!ends || ends.spread >= CLEAR_SPREAD) return [];
  const rim = spec.margin + spec.feather / 2;
  const beyond = ends.reach - rim;
  // The edge of a wire is steep: what lies a px outside its cover may still be half of it.
  const ghost = ends.thin && beyond > 0 ? LEVEL * leftAt(ends, rim + 0.5) : 0;
  if (beyond <= UNSEEN && ghost < GHOST) return [];
  const box = growWithin(bounds, Math.ceil(spec.margin + beyond), x + width, y + height);
  return [
    {
      kind: 'leftover',
      box,
      figure: beyond,
      unit: SOFT_EDGE,
      difference: Math.min(MOST, Math.max(FADES * beyond, ghost)),
      across: Math.max(1, beyond),
      along: Math.max(bounds.width, bounds.height),
      remedy: 'widen-margin',
    },
  ];
}
