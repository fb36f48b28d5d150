import { rasterise, type Point } from '../../mask/shapes.ts';
import type { Box } from '../../raster/raster.ts';
import type { Contour } from './contour.ts';

/** Where each pixel of a box lies: px from the nearest contour, outwards +, and which contour and sample that is. */
export interface Places {
  distance: Float32Array;
  contour: Uint16Array;
  sample: Int32Array;
}

/**
 * Finds the nearest sample of several contours for each pixel. Source: Danielsson, "Euclidean distance mapping", 1980 (vector
 * propagation), then the exact distance from the line beside it.
 */
export function placesOf(contours: readonly Contour[], box: Box): Places {
  const { width, height } = box;
  const n = width * height;
  const contour = new Uint16Array(n);
  const sample = new Int32Array(n).fill(-1);
  const far = (i: number, c: number, s: number) => {
    const { x, y } = contours[c];
    return (x[s] - box.x - (i % width) - 0.5) ** 2 + (y[s] - box.y - Math.floor(i / width) - 0.5) ** 2;
  };
  const best = new Float32Array(n).fill(Infinity);
  const offer = (i: number, c: number, s: number) => {
    const d = far(i, c, s);
    if (d >= best[i]) return;
    best[i] = d;
    contour[i] = c;
    sample[i] = s;
  };
  contours.forEach(({ count, x, y }, c) => {
    for (let s = 0; s < count; s++) {
      const u = Math.min(width - 1, Math.max(0, Math.floor(x[s] - box.x)));
      const v = Math.min(height - 1, Math.max(0, Math.floor(y[s] - box.y)));
      offer(v * width + u, c, s);
    }
  });
  const from = (i: number, j: number) => {
    if (sample[j] >= 0) offer(i, contour[j], sample[j]);
  };
  for (let y = 0; y < height; y++) {
    for (let x = 0, i = y * width; x < width; x++, i++) {
      if (x > 0) from(i, i - 1);
      if (y === 0) continue;
      from(i, i - width);
      if (x > 0) from(i, i - width - 1);
      if (x + 1 < width) from(i, i - width + 1);
    }
    for (let x = width - 2, i = y * width + x; x >= 0; x--, i--) from(i, i + 1);
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = width - 1, i = y * width + x; x >= 0; x--, i--) {
      if (x + 1 < width) from(i, i + 1);
      if (y + 1 === height) continue;
      from(i, i + width);
      if (x + 1 < width) from(i, i + width + 1);
      if (x > 0) from(i, i + width - 1);
    }
    for (let x = 1, i = y * width + 1; x < width; x++, i++) from(i, i - 1);
  }
  const inside = rasterise(
    contours.map(({ x, y, sign }) => ({
      op: sign > 0 ? 'add' : 'take',
      kind: 'outline',
      points: Array.from(x, (v, i): Point => [v, y[i]]),
    })),
    box,
  ).data;
  const distance = new Float32Array(n);
  for (let i = 0; i < n; i++) distance[i] = signedDistance(contours[contour[i]], sample[i], i, box, inside[i] > 0);
  return { distance, contour, sample };
}

function signedDistance(c: Contour, s: number, i: number, box: Box, inside: boolean): number {
  const px = box.x + (i % box.width) + 0.5;
  const py = box.y + Math.floor(i / box.width) + 0.5;
  let least = Infinity;
  for (let k = -1; k < 1; k++) {
    const a = (s + k + c.count) % c.count;
    const b = (a + 1) % c.count;
    const [dx, dy] = [c.x[b] - c.x[a], c.y[b] - c.y[a]];
    const t = Math.min(1, Math.max(0, ((px - c.x[a]) * dx + (py - c.y[a]) * dy) / (dx * dx + dy * dy || 1)));
    least = Math.min(least, Math.hypot(px - c.x[a] - t * dx, py - c.y[a] - t * dy));
  }
  // Beside the line its own direction tells the side better than a pixel does.
  if (least < 1.5) return (px - c.x[s]) * c.nx[s] + (py - c.y[s]) * c.ny[s] < 0 ? -least : least;
  return inside ? -least : least;
}
