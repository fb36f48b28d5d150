import { grownBySquare } from '../mask/groups.ts';
import { coveredPixels } from '../mask/mask.ts';
import { boundsWithin, rasterise, scaleShapes, type Shape } from '../mask/shapes.ts';
import { quantile } from '../raster/luma.ts';
import { blur } from '../raster/planes.ts';
import { boxOf, grow, intersect, type Box, type Raster } from '../raster/raster.ts';
import { modelsOf, unlikely } from './colour-models.ts';
import { groupsOf, smallPicture, type Group, type SmallPicture } from './finders/blobs.ts';
import { subjectEdge } from './subject.ts';

/** px of the longer side at which a subject is looked for. */
const LOOKED = 200;
/** Passes over the picture after which no distance changes to speak of. Source: Zhang et al., 2015. */
const PASSES = 3;
/** Share of the picture's edge, the most usual of it, that is taken for none of the subject. */
const SEEDS = 0.9;
/** Shares of the picture that a subject has at the least and at the most. */
const LEAST = 0.004;
const MOST = 0.6;
/** Shares of the way from what is usual to what stands out most at which the picture is cut into parts. */
const OUT = [0.15, 0.22, 0.3, 0.4, 0.5];
/** CIELAB by which a subject has to differ from what leads to the picture's edge. */
const DIFFERS = 9;
/** How fast a place counts less towards the picture's edges: the deviation of a bell, as a share of each side. */
const CENTRED = 0.4;
/** px of the small picture around a part that it is compared with. */
const RING = 4;
/** What a part counts less for each side of the picture that cuts it. */
const CUT = 0.5;
/** Share of the picture's width from which on what is found is taken for ground. */
const GROUND = 0.97;
/** Share of its outline up to which it may run along the box that was searched. */
const UNFOUND = 0.06;
/** Share of its size by which the box around it is widened before its edge is sought. */
const ROOM = 0.12;

/**
 * How far each place is from the edge of a picture: the least range of values on any way there.
 * Source: Zhang et al., "Minimum Barrier Salient Object Detection at 80 FPS", 2015.
 */
function barriers(plane: Float32Array, seeds: readonly number[], width: number, height: number): Float32Array {
  const out = new Float32Array(plane.length).fill(Infinity);
  const [low, high] = [Float32Array.from(plane), Float32Array.from(plane)];
  for (const i of seeds) out[i] = 0;
  const from = (i: number, j: number) => {
    const [l, h] = [Math.min(low[j], plane[i]), Math.max(high[j], plane[i])];
    if (h - l < out[i]) [out[i], low[i], high[i]] = [h - l, l, h];
  };
  for (let pass = 0; pass < PASSES; pass++) {
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i++) {
        if (x > 0) from(i, i - 1);
        if (y > 0) from(i, i - width);
      }
    for (let y = height - 1, i = plane.length - 1; y >= 0; y--)
      for (let x = width - 1; x >= 0; x--, i--) {
        if (x < width - 1) from(i, i + 1);
        if (y < height - 1) from(i, i + width);
      }
  }
  return out;
}

/** The places at a picture's edge that are coloured as much of that edge is: a subject may be cut by it. */
function usualAtEdge({ width, height }: SmallPicture, lanes: readonly Float32Array[]): number[] {
  const edge = Array.from({ length: width * height }, (_, i) => i).filter((i) => {
    const x = i % width;
    return x === 0 || x === width - 1 || i < width || i >= width * (height - 1);
  });
  const models = modelsOf(edge, lanes);
  const far = Float32Array.from(edge, (i) => unlikely(models, lanes[0][i], lanes[1][i], lanes[2][i]));
  const limit = quantile(far, SEEDS);
  return edge.filter((_, n) => far[n] <= limit);
}

/** How much each place stands out from what leads to the picture's edge, CIELAB; less towards the edges. */
function standingOut(small: SmallPicture): Float32Array {
  const { width, height, L, a, b } = small;
  const soft = [L, a, b].map((lane) => blur(lane, width, height, 1));
  const seeds = usualAtEdge(small, soft);
  const lanes = soft.map((lane) => barriers(lane, seeds, width, height));
  const bell = (t: number) => Math.exp(-((t - 0.5) ** 2) / (2 * CENTRED * CENTRED));
  return lanes[0].map((v, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return Math.hypot(v, lanes[1][i], lanes[2][i]) * bell((x + 0.5) / width) * bell((y + 0.5) / height);
  });
}

/** How much a group stands out from what is just around it, times how large it is; less for each side of the picture that cuts it. */
function weightOf({ box, area, mask }: Group, map: Float32Array, { width, height }: SmallPicture): number {
  const wide = intersect(grow(box, RING), { x: 0, y: 0, width, height });
  const own = new Uint8Array(wide.width * wide.height);
  for (let v = 0, k = 0; v < box.height; v++)
    for (let u = 0; u < box.width; u++, k++)
      if (mask[k]) own[(box.y + v - wide.y) * wide.width + box.x + u - wide.x] = 1;
  const near = grownBySquare(own, wide.width, wide.height, RING);
  const [inner, ring] = [
    [0, 0],
    [0, 0],
  ];
  for (let i = 0; i < own.length; i++) {
    if (!near[i]) continue;
    const sum = own[i] ? inner : ring;
    sum[0] += map[(wide.y + Math.floor(i / wide.width)) * width + wide.x + (i % wide.width)];
    sum[1]++;
  }
  const differs = inner[0] / inner[1] - ring[0] / Math.max(1, ring[1]);
  const [left, top] = [box.x === 0, box.y === 0];
  const [right, bottom] = [box.x + box.width === width, box.y + box.height === height];
  // What goes from one side to the other is ground.
  if (differs < DIFFERS || (left && right) || (top && bottom)) return 0;
  return differs * Math.sqrt(area) * CUT ** [left, top, right, bottom].filter(Boolean).length;
}

/** Of what stands out, the part that does so most as a whole. */
function foremost(map: Float32Array, small: SmallPicture): Box | null {
  const { width, height } = small;
  const [usual, most] = [quantile(map, 0.5), quantile(map, 0.995)];
  let best: { weight: number; box: Box } | null = null;
  for (const share of OUT) {
    const level = usual + share * (most - usual);
    const over = Uint8Array.from(map, (v) => (v > level ? 1 : 0));
    for (const group of groupsOf(over, width, height)) {
      if (group.area < LEAST * map.length || group.area > MOST * map.length) continue;
      const weight = weightOf(group, map, small);
      if (weight > (best?.weight ?? 0)) best = { weight, box: group.box };
    }
  }
  return best && best.box;
}

/** Share of outlines that runs along a box's sides, those of the picture left out: there no edge was found. */
function alongBox(shapes: readonly Shape[], box: Box, picture: Box): number {
  const by = Math.max(3, 0.012 * Math.max(picture.width, picture.height));
  const isAt = (v: number, side: number, end: number) => side > by && side < end - by && Math.abs(v - side) <= by;
  let [along, all] = [0, 0];
  for (const shape of shapes) {
    if (shape.kind !== 'outline') continue;
    shape.points.forEach(([x, y], n) => {
      const [u, v] = shape.points[(n + 1) % shape.points.length];
      const length = Math.hypot(u - x, v - y);
      const on = (from: number, to: number, side: number, end: number) => isAt(from, side, end) && isAt(to, side, end);
      all += length;
      if (
        on(x, u, box.x, picture.width) ||
        on(x, u, box.x + box.width, picture.width) ||
        on(y, v, box.y, picture.height) ||
        on(y, v, box.y + box.height, picture.height)
      )
        along += length;
    });
  }
  return along / Math.max(1, all);
}

/**
 * What a picture is likely to be about: what stands out most from all that leads to its edges, outlined along its true edge.
 * @param avoid faults that are to go: none of them is the subject
 * @returns its outline, px of the picture; null where nothing plainly stands out
 */
export function proposeSubject(picture: Raster, avoid: readonly Shape[] = []): Shape[] | null {
  const small = smallPicture(picture, LOOKED);
  const map = standingOut(small);
  const all = { x: 0, y: 0, width: small.width, height: small.height };
  const faults = rasterise(scaleShapes(avoid, 1 / small.scale), all);
  const part = foremost(
    map.map((v, i) => (faults.data[i] ? 0 : v)),
    small,
  );
  if (!part) return null;
  const { x, y, width, height } = part;
  const at = (v: number) => Math.round(v * small.scale);
  const box = { x: at(x), y: at(y), width: at(width), height: at(height) };
  const room = Math.round(ROOM * Math.max(box.width, box.height));
  const within = intersect(grow(box, room), boxOf(picture));
  const shapes = subjectEdge(picture, { within, keep: [], leave: avoid });
  const covered = rasterise(scaleShapes(shapes, 1 / small.scale), all);
  const share = coveredPixels(covered) / map.length;
  const bounds = boundsWithin(shapes, boxOf(picture));
  const isGround = bounds.width > GROUND * picture.width;
  const isFound = shapes.length > 0 && !isGround && alongBox(shapes, within, boxOf(picture)) <= UNFOUND;
  return isFound && share >= LEAST && share <= MOST ? shapes : null;
}
