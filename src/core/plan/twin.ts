import { halfPlane, lumaPlane, type Plane } from '../raster/luma.ts';
import { boundsOfShapes, rasterise, type Point, type Shape } from '../mask/shapes.ts';
import { isEmpty, type Raster } from '../raster/raster.ts';

/** A place that looks like the surroundings of a fault, and could lend what is missing. */
export interface Twin {
  /** where the middle of the fault lies on the twin */
  at: Point;
  mirrored: boolean;
  /** normalised correlation of the surroundings, 0…1 */
  agreement: number;
}

/** Longest side of the compared surroundings, px of the small copy. */
const SIDE = 26;
/** Agreement from which on something counts as a twin: chance hardly reaches it where there is structure. */
const ALIKE = 0.86;
/** Contrast of the surroundings in levels under which everything would look alike. */
const PLAIN = 14;

/**
 * Looks the whole picture over for a place that looks like the surroundings of a fault, upright or mirrored left to right: a
 * window of the same kind, the other eye, the other end of a roof. Normalised correlation on a small copy; the fault itself and
 * others count neither here nor there. Common practice: what is missing is taken from its twin.
 */
export function findTwin(picture: Raster, shapes: readonly Shape[], avoid: readonly Shape[]): Twin | null {
  const box = boundsOfShapes(shapes, picture.width, picture.height);
  if (isEmpty(box)) return null;
  // The surroundings reach as far again as the fault does.
  const reach = Math.max(20, Math.max(box.width, box.height));
  const side = Math.max(box.width, box.height) + 2 * reach;
  let plane: Plane = { width: picture.width, height: picture.height, data: lumaPlane(picture) };
  let shut: Plane = { width: picture.width, height: picture.height, data: new Float32Array(plane.data.length) };
  const frame = { x: 0, y: 0, width: picture.width, height: picture.height };
  const closed = rasterise([...shapes, ...avoid], frame).data;
  for (let i = 0; i < closed.length; i++) if (closed[i]) shut.data[i] = 1;
  let k = 1;
  while (side / k > SIDE && plane.width > 2 * SIDE && plane.height > 2 * SIDE) {
    plane = halfPlane(plane);
    shut = halfPlane(shut);
    k *= 2;
  }
  const { width, height, data } = plane;
  const [x0, y0] = [Math.max(0, Math.floor((box.x - reach) / k)), Math.max(0, Math.floor((box.y - reach) / k))];
  const x1 = Math.min(width, Math.ceil((box.x + box.width + reach) / k));
  const y1 = Math.min(height, Math.ceil((box.y + box.height + reach) / k));
  const [w, h] = [x1 - x0, y1 - y0];
  // Places of the surroundings as offsets from their corner, and their luma.
  const dx: number[] = [];
  const dy: number[] = [];
  const v: number[] = [];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = (y0 + y) * width + x0 + x;
      if (shut.data[i] > 0) continue;
      dx.push(x);
      dy.push(y);
      v.push(data[i]);
    }
  const n = v.length;
  if (n < 40) return null;
  const mean = v.reduce((s, a) => s + a, 0) / n;
  const own = v.map((a) => a - mean);
  const energy = own.reduce((s, a) => s + a * a, 0);
  if (Math.sqrt(energy / n) < PLAIN) return null;
  let best: (Twin & { x: number; y: number }) | null = null;
  for (const mirrored of [false, true]) {
    const offset = Int32Array.from(dx, (x, i) => dy[i] * width + (mirrored ? w - 1 - x : x));
    for (let y = 0; y + h <= height; y++) {
      for (let x = 0; x + w <= width; x++) {
        // Over itself everything agrees.
        if (Math.abs(x - x0) < w && Math.abs(y - y0) < h) continue;
        const from = y * width + x;
        let [sum, square, both] = [0, 0, 0];
        for (let i = 0; i < n; i++) {
          const a = data[from + offset[i]];
          sum += a;
          square += a * a;
          both += a * own[i];
        }
        const there = square - (sum * sum) / n;
        if (there < 0.25 * energy) continue;
        const agreement = both / Math.sqrt(energy * there);
        if (agreement > ALIKE && (!best || agreement > best.agreement))
          best = { at: [0, 0], mirrored, agreement, x, y };
      }
    }
  }
  if (!best) return null;
  const middle: Point = [box.x + box.width / 2 - x0 * k, box.y + box.height / 2 - y0 * k];
  const at: Point = [best.x * k + (best.mirrored ? w * k - middle[0] : middle[0]), best.y * k + middle[1]];
  return { at, mirrored: best.mirrored, agreement: best.agreement };
}
