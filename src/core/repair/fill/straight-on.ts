import { quantile } from '../../raster/luma.ts';
import { blur, lumaOf } from '../../raster/planes.ts';
import { GRAIN_SIGMA } from './settings.ts';
import { away, Eye, type Colour, type Ground } from './grounds/ground-eye.ts';
import { DEEPEST, STEP, straightEdges, type StraightEdge } from './grounds/straight-edges.ts';
import type { Joins } from './joins.ts';

/** Share of its own steepness that an edge keeps where it is left as it was predicted; px beside where it should be, and along, that are looked at. */
const KEPT = 0.7;
const BESIDE = 2;
/** px before an edge goes under, and after it came out, along which the cover beside it is filled as well; px that it is from it there. */
const BEFORE = 24;
const NEAR = 4;
/** Share of what an edge parts that may have been filled for another. */
const SHARED = 0.25;
/** Share of the contrast by which a rim differs from the side that it lies on where that ends under the cover, and px over which it may. */
const OTHER = 0.5;
const ENDS = 36;
const LIKE = 5;
/** px at which grain begins to be taken from beside, one pixel in how many tells how strong it is, and how much stronger it counts at the most. */
const FROM = 6;
const SAMPLED = 7;
const STRONGEST = 2;
/** How far what an edge parts leans towards what is carried on. */
const LEAN = 0.97;

/** How steep what was predicted is along a hidden edge, as a share of its contrast. */
function keptOf(
  { image, width, height, colours }: Ground,
  { x, y, ux, uy, from, to, left, right }: StraightEdge,
): number {
  const contrast = away(left, right);
  const by = right.map((v, c) => (v - left[c]) / contrast);
  /** Tone across the edge, mean of some px along it. */
  const tone = (t: number, off: number) => {
    let [sum, n] = [0, 0];
    for (let k = t - BESIDE; k <= t + BESIDE; k++) {
      const [u, v] = [Math.round(x + k * ux - off * uy), Math.round(y + k * uy + off * ux)];
      if (u < 0 || v < 0 || u >= width || v >= height) continue;
      for (let c = 0; c < colours; c++) sum += by[c] * image[4 * (v * width + u) + c];
      n++;
    }
    return sum / n;
  };
  let [sum, n] = [0, 0];
  for (let t = from; t <= to; t++, n++) {
    let most = 0;
    for (let off = -BESIDE; off <= BESIDE; off++) most = Math.max(most, tone(t, off + STEP) - tone(t, off - STEP));
    sum += Math.min(1, most / contrast);
  }
  return sum / n;
}

/** Covered pixels that an edge parts, as far as they are beside it. */
function partedBy({ width, height, cover }: Ground, { x, y, ux, uy, from, to, out }: StraightEdge): number[] {
  const parted = new Set<number>();
  for (let t = from - BEFORE; t <= to + (out ? BEFORE : 0); t += 0.5)
    for (const sign of [1, -1]) {
      let met = false;
      for (let d = 0; d <= DEEPEST; d += 0.5) {
        const [u, v] = [Math.round(x + t * ux - sign * d * uy), Math.round(y + t * uy + sign * d * ux)];
        if (u < 0 || v < 0 || u >= width || v >= height) break;
        const i = v * width + u;
        if (cover[i]) {
          parted.add(i);
          met = true;
        } else if (met || d > NEAR) break;
      }
    }
  return [...parted];
}

/** Rims of a cover along an edge, px by px from `first`: what lies beyond them on one side. */
interface Rims {
  first: number;
  colours: Array<Colour | null>;
}

/**
 * What lies to one side of an edge, seen from it at right angles: walls and roofs meet like that more often than not. What is hidden
 * whole at the end of an edge that comes out is what it is there and before.
 */
function rimsOf(ground: Ground, edge: StraightEdge, sign: 1 | -1): Rims {
  const eye = new Eye(ground);
  const { x, y, ux, uy, from, to, out, before, after } = edge;
  const first = Math.floor(from) - BEFORE;
  const count = Math.ceil(to) + (out ? BEFORE : 0) - first + 1;
  const normal = [-sign * uy, sign * ux] as const;
  const seen = Array.from({ length: count }, (_, k) => {
    const at = [x + (first + k) * ux, y + (first + k) * uy] as const;
    return eye.rim(at[0], at[1], normal, DEEPEST, Math.ceil(edge.soft / 2) + 1);
  });
  const own = sign > 0 ? edge.right : edge.left;
  const isOther = (k: number) => {
    const colour = seen[k];
    return colour !== null && away(colour, own) > OTHER * away(edge.left, edge.right);
  };
  if (out)
    for (const [end, step] of [
      [Math.max(0, Math.floor(from) - before - first), 1],
      [Math.min(count - 1, Math.ceil(to) + after - first), -1],
    ]) {
      // A post or the like may look as the side does: it goes on for some px where it is really there again.
      let [k, like] = [end, 0];
      for (; k >= 0 && k < count && like < LIKE; k += step) like = isOther(k) ? 0 : like + 1;
      if (Math.abs(k - end) > ENDS) continue;
      for (let n = end; n !== k; n += step) seen[n] = own;
    }
  // Grain on the rim must not run across as streaks.
  const colours = seen.map((colour, k) => {
    if (!colour) return null;
    const beside = seen.slice(Math.max(0, k - 1), k + 2).filter((c) => c !== null);
    return colour.map((_, c) => beside.reduce((sum, other) => sum + other[c], 0) / beside.length) as Colour;
  });
  return { first, colours };
}

/** Colour that a side has at a place along an edge. */
function colourAt({ first, colours }: Rims, along: number): Colour | null {
  const k = Math.min(colours.length - 1, Math.max(0, along - first));
  const [a, b] = [colours[Math.floor(k)], colours[Math.ceil(k)]];
  if (!a || !b) return a ?? b;
  return a.map((v, c) => v + (b[c] - v) * (k - Math.floor(k))) as Colour;
}

/** Fine detail of known pixels, levels; edges in it count as the strongest grain. */
function grainOf({ image, width, height, colours, cover }: Ground): Float32Array {
  const luma = lumaOf(image, colours);
  const soft = blur(luma, width, height, GRAIN_SIGMA);
  const grain = luma.map((v, i) => v - soft[i]);
  const some = grain.filter((_, i) => !cover[i] && i % SAMPLED === 0).map(Math.abs);
  const most = some.length ? STRONGEST * quantile(some, 0.5) : 0;
  return grain.map((v) => Math.max(-most, Math.min(most, v)));
}

function layEdge(
  ground: Ground,
  edge: StraightEdge,
  places: readonly number[],
  grain: Float32Array,
  index: Int32Array,
  joins: Joins,
): void {
  const { width, height, cover, colours } = ground;
  const [right, left] = [rimsOf(ground, edge, 1), rimsOf(ground, edge, -1)];
  const { x, y, ux, uy } = edge;
  /** Grain from the same side, at right angles beyond the cover. */
  const grainBeside = (px: number, py: number, sign: number): number => {
    for (let d = FROM; d <= DEEPEST + FROM; d += 2) {
      const [u, v] = [Math.round(px - sign * d * uy), Math.round(py + sign * d * ux)];
      if (u < 0 || v < 0 || u >= width || v >= height) return 0;
      if (!cover[v * width + u]) return grain[v * width + u];
    }
    return 0;
  };
  for (const i of places) {
    const [px, py] = [i % width, Math.floor(i / width)];
    const [rx, ry] = [px - x, py - y];
    const along = rx * ux + ry * uy;
    const off = ry * ux - rx * uy;
    const share = Math.min(1, Math.max(0, 0.5 + off / edge.soft));
    const [r, l] = [colourAt(right, along), colourAt(left, along)];
    if (!r || !l) continue;
    joins.leans[index[i]] = LEAN;
    const fine = grainBeside(px, py, Math.sign(off));
    for (let c = 0; c < colours; c++) joins.values[4 * index[i] + c] = share * r[c] + (1 - share) * l[c] + fine;
  }
}

/**
 * Lets sharp straight edges run on under a thin cover where what was predicted draws them out: what they part is carried on from its own
 * side alone, and leans towards that in `joins`.
 * @param ground as it was predicted
 * @param covered the cover's pixels as y × width + x
 * @returns whether anything has to be predicted anew
 */
export function runStraightOn(ground: Ground, covered: Int32Array, joins: Joins): boolean {
  const edges = straightEdges(ground, covered).filter(
    (edge) => keptOf(ground, edge) < KEPT * Math.min(1, (2 * STEP) / edge.soft),
  );
  if (!edges.length) return false;
  const index = new Int32Array(ground.cover.length);
  covered.forEach((i, n) => (index[i] = n));
  const taken = new Uint8Array(ground.cover.length);
  const grain = grainOf(ground);
  for (const edge of edges) {
    const parted = partedBy(ground, edge);
    const places = parted.filter((i) => !taken[i]);
    if (places.length < (1 - SHARED) * parted.length) continue;
    layEdge(ground, edge, places, grain, index, joins);
    for (const i of places) taken[i] = 1;
  }
  return true;
}
