import { ABOVE, BELOW, LEFT, MaxFlow, RIGHT } from '../kernels/max-flow.ts';
import { outlineOf, simplified } from '../mask/outline.ts';
import { rasterise, scaleShapes, type Point, type Shape } from '../mask/shapes.ts';
import { quantile } from '../raster/luma.ts';
import { boxOf, grow, intersect, isEmpty, type Box, type Raster } from '../raster/raster.ts';
import { modelsOf, unlikely } from './colour-models.ts';
import { groupsOf, smallPicture, type SmallPicture } from './finders/blobs.ts';
import { withThinParts } from './thin-parts.ts';

/** px of the longer side at which it is decided what belongs to a subject, and at which its edge is followed. */
const DECIDED = 360;
const FOLLOWED = 1000;
/** Rounds of deciding, and what a step between neighbours costs at the most. */
const ROUNDS = 4;
/** px of each side from which its colours are learnt. */
const SAMPLED = 3000;
const STEP = 50;
/** Share of a subject from which on a hole is told. */
const HOLE = 0.01;
/** px over which an edge is followed, and by how much light and colour have to differ there (of 100, squared). */
const REACH = 6;
const EVEN = 6;
/** px to each side over which an outline is evened. */
const EVENED = 3;
/** What capacities are multiplied with, and the most that one is. */
const UNIT = 64;
const MOST = 1 << 24;

/** What is known of a subject; px of the picture. */
export interface SubjectMarks {
  /** all of it lies within */
  within: Box;
  /** surely part of it, surely not */
  keep: readonly Shape[];
  leave: readonly Shape[];
}

/** 1 where something is surely part of a subject, 2 where it surely is not, 0 where that is to be found out. */
function knownOf({ within, keep, leave }: SubjectMarks, small: SmallPicture): Uint8Array {
  const { width, height, scale } = small;
  const frame = { x: 0, y: 0, width, height };
  const inner = rasterise(scaleShapes([{ op: 'add', kind: 'box', ...within }], 1 / scale), frame).data;
  const kept = rasterise(scaleShapes(keep, 1 / scale), frame).data;
  const left = rasterise(scaleShapes(leave, 1 / scale), frame).data;
  return Uint8Array.from(inner, (v, i) => (kept[i] ? 1 : !v || left[i] ? 2 : 0));
}

/** How much neighbours belong together: what a cut between them costs. */
function bonds({ width, height, L, a, b }: SmallPicture) {
  const far = (i: number, j: number) => (L[i] - L[j]) ** 2 + (a[i] - a[j]) ** 2 + (b[i] - b[j]) ** 2;
  let [sum, n] = [0, 0];
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (x + 1 < width) [sum, n] = [sum + far(i, i + 1), n + 1];
      if (y + 1 < height) [sum, n] = [sum + far(i, i + width), n + 1];
    }
  const beta = n / (2 * Math.max(1e-6, sum));
  return (i: number, j: number) => Math.round(UNIT * STEP * Math.exp(-beta * far(i, j)));
}

/** Px of one side of a mask, evenly spread. */
function sampled(mask: Uint8Array, side: number): number[] {
  const all: number[] = [];
  for (let i = 0; i < mask.length; i++) if (mask[i] === side) all.push(i);
  const step = Math.max(1, all.length / SAMPLED);
  return Array.from({ length: Math.floor(all.length / step) }, (_, n) => all[Math.floor(n * step)]);
}

/** What is taken for a subject at first: the half of what may be one that is least like what is none. */
function begun({ L, a, b }: SmallPicture, known: Uint8Array): Uint8Array {
  const may = Uint8Array.from(known, (v) => (v === 2 ? 0 : 1));
  const outer = sampled(may, 0);
  if (outer.length < 16) return may;
  const other = modelsOf(outer, [L, a, b]);
  const unlike = Float32Array.from(may, (v, i) => (v ? unlikely(other, L[i], a[i], b[i]) : 0));
  const middle = quantile(
    unlike.filter((_, i) => may[i]),
    0.5,
  );
  return may.map((v, i) => (known[i] === 1 || (v && unlike[i] >= middle) ? 1 : 0));
}

/** What belongs to a subject on a small picture. */
function decided(small: SmallPicture, marks: SubjectMarks): Uint8Array {
  const { width, height } = small;
  const lanes = [small.L, small.a, small.b];
  const known = knownOf(marks, small);
  let mask = begun(small, known);
  const bond = bonds(small);
  const flow = new MaxFlow();
  for (let round = 0; round < ROUNDS; round++) {
    const [inner, outer] = [1, 0].map((side) => sampled(mask, side));
    if (inner.length < 16 || outer.length < 16) return mask;
    const [own, other] = [modelsOf(inner, lanes), modelsOf(outer, lanes)];
    flow.begin(width * height);
    const { neighbours, capacity, terminal } = flow;
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i++) {
        if (x + 1 < width) {
          neighbours[4 * i + RIGHT] = i + 1;
          neighbours[4 * (i + 1) + LEFT] = i;
          capacity[4 * i + RIGHT] = capacity[4 * (i + 1) + LEFT] = bond(i, i + 1);
        }
        if (y + 1 < height) {
          neighbours[4 * i + BELOW] = i + width;
          neighbours[4 * (i + width) + ABOVE] = i;
          capacity[4 * i + BELOW] = capacity[4 * (i + width) + ABOVE] = bond(i, i + width);
        }
        const [L, a, b] = [small.L[i], small.a[i], small.b[i]];
        const likelier = known[i] ? 0 : UNIT * (unlikely(other, L, a, b) - unlikely(own, L, a, b));
        terminal[i] = known[i] === 1 ? MOST : known[i] === 2 ? -MOST : Math.round(likelier);
      }
    flow.cut();
    const next = Uint8Array.from(mask, (_, i) => (flow.side(i) === 'source' ? 1 : 0));
    const isSame = next.every((v, i) => v === mask[i]);
    mask = next;
    if (isSame) break;
  }
  return mask;
}

/** Sums over squares around each px, as means. */
function meanAround(plane: Float32Array, width: number, height: number, r: number): Float32Array {
  const sums = new Float64Array((width + 1) * (height + 1));
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0, row = 0; x < width; x++, i++) {
      row += plane[i];
      sums[(y + 1) * (width + 1) + x + 1] = sums[y * (width + 1) + x + 1] + row;
    }
  const out = new Float32Array(plane.length);
  for (let y = 0, i = 0; y < height; y++) {
    const [y0, y1] = [Math.max(0, y - r), Math.min(height, y + r + 1)];
    for (let x = 0; x < width; x++, i++) {
      const [x0, x1] = [Math.max(0, x - r), Math.min(width, x + r + 1)];
      const [up, down] = [y0 * (width + 1), y1 * (width + 1)];
      out[i] = (sums[down + x1] - sums[down + x0] - sums[up + x1] + sums[up + x0]) / ((x1 - x0) * (y1 - y0));
    }
  }
  return out;
}

/**
 * A mask made to follow the edges of a picture in lightness.
 * Source: He, Sun & Tang, "Guided Image Filtering", 2010.
 */
function followed(mask: Float32Array, guide: Float32Array, width: number, height: number): Float32Array {
  const mean = (p: Float32Array) => meanAround(p, width, height, REACH);
  const times = (p: Float32Array, q: Float32Array) => p.map((v, i) => v * q[i]);
  const [g, m] = [mean(guide), mean(mask)];
  const [gg, gm] = [mean(times(guide, guide)), mean(times(guide, mask))];
  const slope = g.map((v, i) => (gm[i] - v * m[i]) / (gg[i] - v * v + EVEN));
  const offset = g.map((v, i) => m[i] - slope[i] * v);
  const [s, o] = [mean(slope), mean(offset)];
  return guide.map((v, i) => s[i] * v + o[i]);
}

/** A small mask as large as another picture, its steps softened. */
function enlarged(mask: Uint8Array, from: SmallPicture, to: SmallPicture): Float32Array {
  const out = new Float32Array(to.width * to.height);
  for (let y = 0, i = 0; y < to.height; y++)
    for (let x = 0; x < to.width; x++, i++) {
      const u = ((x + 0.5) * from.width) / to.width - 0.5;
      const v = ((y + 0.5) * from.height) / to.height - 0.5;
      const [x0, y0] = [Math.max(0, Math.floor(u)), Math.max(0, Math.floor(v))];
      const [x1, y1] = [Math.min(from.width - 1, x0 + 1), Math.min(from.height - 1, y0 + 1)];
      const [p, q] = [Math.max(0, u - x0), Math.max(0, v - y0)];
      const [up, down] = [y0 * from.width, y1 * from.width];
      const above = (1 - p) * mask[up + x0] + p * mask[up + x1];
      out[i] = (1 - q) * above + q * ((1 - p) * mask[down + x0] + p * mask[down + x1]);
    }
  return out;
}

/** An outline along px evened, so that it has no steps of them: its points a px apart, each the mean of its neighbours. */
function smoothed(corners: readonly Point[]): Point[] {
  const steps = corners.flatMap(([x, y], k): Point[] => {
    const [u, v] = corners[(k + 1) % corners.length];
    const n = Math.max(1, Math.abs(u - x) + Math.abs(v - y));
    return Array.from({ length: n }, (_, j): Point => [x + ((u - x) * j) / n, y + ((v - y) * j) / n]);
  });
  const n = steps.length;
  if (n < 4 * EVENED) return [...corners];
  return steps.map((_, k): Point => {
    let [x, y] = [0, 0];
    for (let j = -EVENED; j <= EVENED; j++) {
      const [u, v] = steps[(k + j + n) % n];
      [x, y] = [x + u, y + v];
    }
    return [x / (2 * EVENED + 1), y / (2 * EVENED + 1)];
  });
}

/** Outlines of a mask: each part, and the holes in it. */
function outlined(mask: Uint8Array, { width, height, scale }: SmallPicture): Shape[] {
  const parts = groupsOf(mask, width, height);
  const area = parts[0]?.area ?? 0;
  const shapeOf = (op: Shape['op'], { box, mask: own }: (typeof parts)[number]): Shape => {
    const points = simplified(smoothed(outlineOf(own, box.width, box.height, box.x, box.y)), 0.3);
    return { op, kind: 'outline', points: points.map(([x, y]): Point => [x * scale, y * scale]) };
  };
  const holes = groupsOf(
    Uint8Array.from(mask, (v) => (v ? 0 : 1)),
    width,
    height,
  ).filter(
    ({ box, area: own }) =>
      own > HOLE * area && box.x > 0 && box.y > 0 && box.x + box.width < width && box.y + box.height < height,
  );
  return [...parts.map((p) => shapeOf('add', p)), ...holes.map((h) => shapeOf('take', h))];
}

/**
 * The true outline of a subject that was roughly marked: colours inside and outside of the mark tell what belongs to it, a cut
 * between them runs where neighbours differ most, and the edge is followed at a finer size.
 * @returns its outlines, px of the picture; none where nothing stands out within the mark
 * Source: Rother, Kolmogorov & Blake, "GrabCut", 2004; the edge by a guided filter.
 */
export function subjectEdge(picture: Raster, marks: SubjectMarks): Shape[] {
  const within = intersect(marks.within, boxOf(picture));
  if (isEmpty(within)) return [];
  const small = smallPicture(picture, DECIDED);
  const coarse = decided(small, { ...marks, within });
  if (!coarse.includes(1)) return [];
  const fine = smallPicture(picture, FOLLOWED);
  const known = knownOf({ ...marks, within: intersect(grow(within, 1), boxOf(picture)) }, fine);
  const soft = followed(enlarged(coarse, small, fine), fine.L, fine.width, fine.height);
  const mask = Uint8Array.from(soft, (v, i) => (known[i] === 1 || (v > 0.5 && known[i] !== 2) ? 1 : 0));
  const at = (v: number) => Math.round(v / fine.scale);
  const box = { x: at(within.x), y: at(within.y), width: at(within.width), height: at(within.height) };
  return outlined(withThinParts(mask, known, fine, box), fine);
}
