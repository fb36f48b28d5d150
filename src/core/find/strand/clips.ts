import { boundsOfShapes, rasterise, type Point, type Shape } from '../../mask/shapes.ts';
import { createRaster, growWithin, type Box, type Raster } from '../../raster/raster.ts';
import { sigmoid, type Find } from '../find.ts';
import { logitOf, readForest } from '../scoring/forest.ts';
import lines from '../scoring/forests/clips.json' with { type: 'json' };
import { halfPlane, lumaPlane, type Plane } from '../../raster/luma.ts';
import { speckCandidates } from '../specks/speck-candidates.ts';
import { speckVector } from '../specks/specks.ts';
import { resizeStrand, scaleFor, strandCover, usualWidth } from './strand-cover.ts';
import type { TracedStrand } from './traced-strand.ts';

/** Tells clips from detail beside a strand; fitted by `bench/train-clips.ts`. */
export const CLIP_FOREST = readForest(lines);
/** Score from which a clip is proposed: fences have hundreds of crossings, and few of them a clip. */
const LEAST_SCORE = 0.8;
/** px beyond the cover of a strand whose tone is not trusted to be that of the ground. */
const SPILL = 0.8;
/** Widths of a strand between which a clip or knot on it measures. */
const LEAST = 1.25;
const MOST = 7;
/** Share of a clip that must lie on strands. */
const ON_STRANDS = 0.2;

/**
 * The plane with what `cover` marks filled in from its rim, layer by layer: what sticks out on both sides of a strand
 * closes over it, the ground closes elsewhere.
 */
function closed(plane: Float32Array, cover: Uint8Array, width: number): Float32Array {
  const out = plane.slice();
  const known = cover.map((c) => (c ? 0 : 1));
  const around = [-width - 1, -width, -width + 1, -1, 1, width - 1, width, width + 1];
  const open = (i: number, d: number) => {
    const x = (i % width) + (((d + width + 1) % width) - 1);
    return i + d >= 0 && i + d < out.length && x >= 0 && x < width;
  };
  let layer: number[] = [];
  for (let i = 0; i < out.length; i++) if (!known[i] && around.some((d) => open(i, d) && known[i + d])) layer.push(i);
  while (layer.length) {
    const values = layer.map((i) => {
      let [sum, n] = [0, 0];
      for (const d of around)
        if (open(i, d) && known[i + d]) {
          sum += out[i + d];
          n++;
        }
      return sum / n;
    });
    layer.forEach((i, k) => {
      out[i] = values[k];
      known[i] = 1;
    });
    const next = new Set<number>();
    for (const i of layer) for (const d of around) if (open(i, d) && !known[i + d]) next.add(i + d);
    layer = [...next];
  }
  return out;
}

/** What tells a clip from detail beside a strand, on top of what tells specks. */
const CLIP_FEATURES = [
  /** share of it that lies on strands, and on two that cross */
  'on',
  'crossed',
  /** width over that of a strand */
  'wider',
  /** how far its tone beside the strand is from the strand's own, over the strand's contrast */
  'unlike',
  /** distance of what is beside the strand from what is on it, centre to centre, over its size: on one side only much */
  'aside',
] as const;

/** Something on a strand, with what was measured on it. */
export interface ClipCandidate {
  find: Omit<Find, 'score'>;
  x: Float32Array;
}

/** Everything wider than a strand that sits on one; see {@link findClips}. */
export function clipCandidates(
  plane: Plane,
  strands: TracedStrand[],
  onProgress?: (done: number) => void,
): ClipCandidate[] {
  if (!strands.length) return [];
  const { width, height, data: original } = plane;
  const cover = new Uint8Array(width * height);
  const core = new Uint8Array(width * height);
  const last = new Uint32Array(width * height);
  strands.forEach((strand, n) => {
    for (const piece of cut(strand)) {
      const wide = strandCover({ ...piece, blur: 0, widths: piece.widths.map((w) => w + 2 * SPILL) });
      const { data, ...box } = rasterise(wide, boundsOfShapes(wide, width, height));
      const narrow = strandCover({ ...piece, blur: 0, widths: piece.widths.map((w) => Math.max(1, w - 2)) });
      const middle = rasterise(narrow, box).data;
      for (let v = 0, k = 0; v < box.height; v++)
        for (let u = 0, i = (box.y + v) * width + box.x; u < box.width; u++, k++, i++) {
          if (middle[k]) core[i] = 1;
          if (!data[k] || last[i] === n + 1) continue;
          last[i] = n + 1;
          cover[i]++;
        }
    }
  });
  const luma = closed(original, cover, width);
  const grey = createRaster(width, height, 1, 8, Uint8Array.from(luma, Math.round));
  const usual = usualWidth(strands);
  const out: ClipCandidate[] = [];
  for (const { find, features } of speckCandidates({ picture: grey, luma }, onProgress, { where: cover, spare: 1 })) {
    if (features.size < LEAST * usual || features.size > MOST * usual) continue;
    const mask = rasterise(find.shapes, find.box);
    let [all, on, crossed, beside] = [0, 0, 0, 0];
    let [onX, onY, offX, offY] = [0, 0, 0, 0];
    for (let v = 0, k = 0; v < mask.height; v++)
      for (let u = 0; u < mask.width; u++, k++) {
        if (!mask.data[k]) continue;
        const i = (mask.y + v) * width + mask.x + u;
        all++;
        if (cover[i]) {
          on++;
          onX += u;
          onY += v;
          if (cover[i] > 1) crossed++;
        } else {
          beside += original[i];
          offX += u;
          offY += v;
        }
      }
    if (on < ON_STRANDS * all) continue;
    const off = all - on;
    const [own, ground] = tonesNear(original, cover, core, width, height, find.box, Math.ceil(2.5 * usual));
    const extra: Record<(typeof CLIP_FEATURES)[number], number> = {
      on: on / all,
      crossed: crossed / all,
      wider: features.size / usual,
      unlike: off ? Math.abs(beside / off - own) / (Math.abs(own - ground) + 4) : -1,
      aside: off ? Math.hypot(offX / off - onX / on, offY / off - onY / on) / features.size : -1,
    };
    out.push({
      find: { ...find, kind: 'object' },
      x: Float32Array.from([...speckVector(features), ...CLIP_FEATURES.map((k) => extra[k])]),
    });
  }
  return out;
}

/** A strand in pieces of a few points, since the box around a long slanting one is mostly empty. */
function cut(strand: TracedStrand, points = 24): TracedStrand[] {
  const out: TracedStrand[] = [];
  for (let k = 0; k + 1 < strand.points.length; k += points)
    out.push({
      ...strand,
      points: strand.points.slice(k, k + points + 1),
      widths: strand.widths.slice(k, k + points + 1),
      blurs: strand.blurs.slice(k, k + points + 1),
      unsure: [],
      reaches: undefined,
    });
  return out;
}

/** A find in a picture `by` times as large. */
function resizeFind(find: Omit<Find, 'score'>, by: number): Omit<Find, 'score'> {
  const { x, y, width, height } = find.box;
  const larger = (shape: Shape): Shape =>
    shape.kind === 'outline' ? { ...shape, points: shape.points.map(([u, v]): Point => [u * by, v * by]) } : shape;
  return {
    ...find,
    shapes: find.shapes.map(larger),
    box: { x: x * by, y: y * by, width: width * by, height: height * by },
    width: find.width * by,
    length: find.length * by,
  };
}

/** Mean luma of the middle of strands and of the ground around a box. */
function tonesNear(
  luma: Float32Array,
  cover: Uint8Array,
  core: Uint8Array,
  width: number,
  height: number,
  box: Box,
  far: number,
): [number, number] {
  const { x, y, width: w, height: h } = growWithin(box, far, width, height);
  let [own, n, ground, m] = [0, 0, 0, 0];
  for (let v = y; v < y + h; v++)
    for (let u = x; u < x + w; u++) {
      if (u >= box.x && v >= box.y && u < box.x + box.width && v < box.y + box.height) continue;
      const i = v * width + u;
      if (core[i]) {
        own += luma[i];
        n++;
      } else if (!cover[i]) {
        ground += luma[i];
        m++;
      }
    }
  return [own / Math.max(1, n), ground / Math.max(1, m)];
}

/**
 * Clips, ties and knots on the strands of a fence: with the strands closed over, what is left on them is found as specks
 * are, and told from detail of the picture by a forest (`bench/train-clips.ts`).
 *
 * @param strands what was traced or completed, in px of the picture
 * @param onProgress may throw to cancel
 * @returns finds of kind `object`, surest first; each covers the clip and the piece of strand it sits on
 * Source: own.
 */
export function findClips(picture: Raster, strands: TracedStrand[], onProgress?: (done: number) => void): Find[] {
  const scale = scaleFor(strands);
  const whole = { width: picture.width, height: picture.height, data: lumaPlane(picture) };
  const plane = scale === 1 ? whole : halfPlane(whole);
  const sized = strands.map((s) => resizeStrand(s, 1 / scale));
  return clipCandidates(plane, sized, onProgress)
    .map(({ find, x }) => ({ ...resizeFind(find, scale), score: sigmoid(logitOf(CLIP_FOREST, x)) }))
    .filter((f) => f.score >= LEAST_SCORE)
    .sort((a, b) => b.score - a.score);
}
