import { lumaPlane } from '../../raster/luma.ts';
import type { Mask } from '../../mask/mask.ts';
import { rasterise, type Point, type Shape } from '../../mask/shapes.ts';
import { colourChannels, fullScale, growWithin, type Raster } from '../../raster/raster.ts';
import type { Beneath } from '../method.ts';

/** A place from which a cover could be repaired, and how well it agrees with what surrounds the cover; all 0…1. */
export interface DonorAdvice {
  /** the donor's middle, for the middle of the cover's box */
  at: Point;
  score: number;
  tone: number;
  grain: number;
  sharpness: number;
  /** agreement of the direction of structure */
  direction: number;
}

/** Options of {@link adviseDonors}. */
export interface DonorOptions {
  /** px around the cover that are looked at */
  reach: number;
  /** how many donors are wanted */
  most: number;
}

/** Cells a cover has at most along its longer side while donors are compared. */
const CELLS = 18;
/** Cells around the cover that are compared. */
const RIM = 3;

/** What is known of one cell: mean tone (three lanes of 255), fine detail, slope and structure. */
interface Cells {
  width: number;
  height: number;
  tone: Float32Array[];
  fine: Float32Array;
  slope: Float32Array;
  /** structure tensor: xx, yy, xy */
  xx: Float32Array;
  yy: Float32Array;
  xy: Float32Array;
}

function cellsOf(picture: Raster, k: number): Cells {
  const { width, height, channels, data } = picture;
  const [w, h] = [Math.floor(width / k), Math.floor(height / k)];
  const colours = colourChannels(channels);
  const unit = 255 / fullScale(picture.depth);
  const plane = () => new Float32Array(w * h);
  const tone = Array.from({ length: colours }, plane);
  const [fine, slope, xx, yy, xy] = [plane(), plane(), plane(), plane(), plane()];
  const luma = lumaPlane(picture);
  const n = k * k;
  for (let y = 0; y < h * k; y++) {
    const row = Math.floor(y / k) * w;
    const [up, down] = [Math.max(0, y - 1) * width, Math.min(height - 1, y + 1) * width];
    for (let x = 0; x < w * k; x++) {
      const c = row + Math.floor(x / k);
      const i = y * width + x;
      for (let t = 0; t < colours; t++) tone[t][c] += (data[i * channels + t] * unit) / n;
      const [left, right] = [luma[y * width + Math.max(0, x - 1)], luma[y * width + Math.min(width - 1, x + 1)]];
      const [above, below] = [luma[up + x], luma[down + x]];
      const gx = (right - left) / 2;
      const gy = (below - above) / 2;
      fine[c] += Math.abs(luma[i] - (left + right + above + below) / 4) / n;
      slope[c] += Math.sqrt(gx * gx + gy * gy) / n;
      xx[c] += (gx * gx) / n;
      yy[c] += (gy * gy) / n;
      xy[c] += (gx * gy) / n;
    }
  }
  return { width: w, height: h, tone, fine, slope, xx, yy, xy };
}

/** Direction of structure as a doubled angle, and how clear it is, from summed tensors. */
function directionOf(xx: number, yy: number, xy: number): { angle: number; clear: number } {
  const d = xx - yy;
  const length = Math.sqrt(d * d + 4 * xy * xy);
  return { angle: Math.atan2(2 * xy, d), clear: xx + yy > 1 ? length / (xx + yy) : 0 };
}

/**
 * Ranks the places around a cover from which it could be repaired: what surrounds the cover is compared with what surrounds
 * each place, in tone, grain, sharpness and direction of structure, and pixel by pixel (which lines edges up). Places that lie on
 * the cover, on `avoid` or beyond the picture are out, and so is the neighbourhood of a better one.
 *
 * @param cover the cover's mask over its box, non-zero = covered
 * Common practice: a donor of the same tone, grain and sharpness, close by, on the same line of the structure.
 */
export function adviseDonors(
  beneath: Beneath,
  cover: Mask,
  avoid: readonly Shape[],
  { reach, most }: DonorOptions,
): DonorAdvice[] {
  const size = Math.max(cover.width, cover.height);
  const k = Math.max(1, Math.ceil(size / CELLS));
  const frame = growWithin(cover, Math.ceil(reach + size), beneath.width, beneath.height);
  const picture = beneath.read(frame);
  const cells = cellsOf(picture, k);
  const { width: w, height: h } = cells;
  const shut = new Uint8Array(w * h);
  const covered = new Uint8Array(w * h);
  for (let y = 0; y < cover.height; y++) {
    for (let x = 0; x < cover.width; x++) {
      if (!cover.data[y * cover.width + x]) continue;
      const u = Math.floor((cover.x + x - frame.x) / k);
      const v = Math.floor((cover.y + y - frame.y) / k);
      if (u < w && v < h) covered[v * w + u] = 1;
    }
  }
  const barred = avoid.length ? rasterise(avoid, frame).data : undefined;
  const gaps = beneath.gap?.(frame);
  for (let y = 0; y < h * k; y++) {
    for (let x = 0; x < w * k; x++) {
      const c = Math.floor(y / k) * w + Math.floor(x / k);
      const i = y * frame.width + x;
      if (covered[c] || barred?.[i] || gaps?.[i]) shut[c] = 1;
    }
  }
  // Cells of the cover and of its rim, as offsets.
  const inside: number[] = [];
  const rim: Array<{ x: number; y: number; near: number }> = [];
  let [x0, y0, x1, y1] = [w, h, -1, -1];
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      if (!covered[y * w + x]) continue;
      inside.push(y * w + x);
      [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
    }
  }
  if (!inside.length) return [];
  for (let y = Math.max(0, y0 - RIM); y <= Math.min(h - 1, y1 + RIM); y++) {
    for (let x = Math.max(0, x0 - RIM); x <= Math.min(w - 1, x1 + RIM); x++) {
      if (shut[y * w + x]) continue;
      let near = Infinity;
      for (let v = Math.max(0, y - RIM); v <= Math.min(h - 1, y + RIM); v++)
        for (let u = Math.max(0, x - RIM); u <= Math.min(w - 1, x + RIM); u++)
          if (covered[v * w + u]) near = Math.min(near, Math.max(Math.abs(u - x), Math.abs(v - y)));
      if (near <= RIM) rim.push({ x, y, near });
    }
  }
  if (!rim.length) return [];
  const own = measure(
    cells,
    rim.map((r) => r.y * w + r.x),
  );
  const far = Math.min(w + h, Math.ceil(reach / k));
  const found: Array<DonorAdvice & { dx: number; dy: number }> = [];
  const step = far > 40 ? 2 : 1;
  for (let dy = -far; dy <= far; dy += step) {
    if (y0 + dy < 0 || y1 + dy >= h) continue;
    for (let dx = -far; dx <= far; dx += step) {
      if (x0 + dx < 0 || x1 + dx >= w) continue;
      const by = dy * w + dx;
      if (inside.some((c) => shut[c + by])) continue;
      found.push({ ...agreement(cells, own, inside, rim, dx, dy), at: [0, 0], dx, dy });
    }
  }
  found.sort((a, b) => b.score - a.score);
  const out: typeof found = [];
  const apart = Math.max(1, 0.8 * Math.max(x1 - x0 + 1, y1 - y0 + 1));
  for (const f of found) {
    if (out.length >= most) break;
    if (out.every((o) => Math.hypot(o.dx - f.dx, o.dy - f.dy) >= apart)) out.push(f);
  }
  return out.map(({ dx, dy, ...rest }) => ({
    ...rest,
    at: [cover.x + cover.width / 2 + dx * k, cover.y + cover.height / 2 + dy * k],
  }));
}

interface Measured {
  tone: number[];
  fine: number;
  slope: number;
  angle: number;
  clear: number;
}

function measure(cells: Cells, list: readonly number[]): Measured {
  const n = Math.max(1, list.length);
  const mean = (plane: Float32Array) => list.reduce((s, i) => s + plane[i], 0) / n;
  return {
    tone: cells.tone.map(mean),
    fine: mean(cells.fine),
    slope: mean(cells.slope),
    ...directionOf(mean(cells.xx), mean(cells.yy), mean(cells.xy)),
  };
}

function agreement(
  cells: Cells,
  own: Measured,
  inside: readonly number[],
  rim: ReadonlyArray<{ x: number; y: number; near: number }>,
  dx: number,
  dy: number,
) {
  const { width: w, height: h, tone } = cells;
  const by = dy * w + dx;
  const there = measure(
    cells,
    inside.map((i) => i + by),
  );
  let [difference, weight] = [0, 0];
  for (const { x, y, near } of rim) {
    const [u, v] = [x + dx, y + dy];
    if (u < 0 || v < 0 || u >= w || v >= h) continue;
    const from = y * w + x;
    let d = 0;
    for (const plane of tone) d += Math.abs(plane[from] - plane[from + by]);
    difference += d / tone.length / near;
    weight += 1 / near;
  }
  const away = tone.reduce((s, _, t) => s + Math.abs(own.tone[t] - there.tone[t]), 0) / tone.length;
  const ratio = (a: number, b: number) => Math.exp(-Math.abs(Math.log((a + 0.6) / (b + 0.6))) / 0.7);
  const clear = Math.min(own.clear, there.clear);
  const half = Math.sin((own.angle - there.angle) / 2);
  const toneAgrees = Math.exp(-away / 25);
  const line = Math.exp(-(weight > 0 ? difference / weight : 60) / 18);
  const grain = ratio(own.fine, there.fine);
  const sharpness = ratio(own.slope / (own.fine + 0.6), there.slope / (there.fine + 0.6));
  const direction = 1 - clear * half * half;
  const near = 1 - 0.1 * Math.min(1, Math.hypot(dx, dy) / (w + h));
  const score = near * line ** 0.5 * toneAgrees ** 0.2 * grain ** 0.15 * sharpness ** 0.05 * direction ** 0.1;
  return { score, tone: toneAgrees, grain, sharpness, direction };
}
