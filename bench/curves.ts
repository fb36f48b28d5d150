// Hairs and scratches of known truth, planted in photographs, and how finds compare with them by length.
import { boxMean, lumaPlane } from '../src/core/raster/luma.ts';
import { rasterise, type Point, type Shape } from '../src/core/mask/shapes.ts';
import { createRaster, type Raster } from '../src/core/raster/raster.ts';
import { plantedContrast, plantedTone, type Planting } from './planted.ts';

/** Planted lines stand out by so many times the standard deviation around them (at least 20 levels where it is even). */
export const CURVE_CONTRASTS = [5, 3.5, 2.5];

/**
 * Plants hairs (curled, 40 to 220 px) and scratches (nearly straight, 120 to 700 px), 1.2 to 3.5 px wide, of one tone.
 * @returns the picture, and for each pixel the distance to the nearest planted line (capped at 9)
 */
export function plantCurves(clean: Raster, count: number, planting: Planting) {
  const { random, varied } = planting;
  const { width, height } = clean;
  const picture: Raster = { ...createRaster(width, height, 3, 8), data: clean.data.slice() };
  const luma = { width, height, data: lumaPlane(clean) };
  const mean = boxMean(luma, 12).data;
  const square = boxMean({ width, height, data: luma.data.map((v) => v * v) }, 12).data;
  const near = new Float32Array(width * height).fill(9);
  const lines: Point[][] = [];
  for (let tries = 0; lines.length < count && tries < count * 30; tries++) {
    const hair = random() < 0.6;
    const length = hair ? 40 + 180 * random() : 120 + 580 * random();
    let angle = random() * 2 * Math.PI;
    let curl = hair ? (random() - 0.5) * 0.06 : (random() - 0.5) * 0.0006;
    const drift = hair ? (random() - 0.5) * 0.002 : 0;
    let [x, y] = [random() * width, random() * height];
    const points: Point[] = [];
    for (let s = 0; s < length; s++) {
      if (x < 8 || y < 8 || x > width - 8 || y > height - 8) break;
      points.push([x, y]);
      angle += curl;
      curl += drift;
      if (Math.abs(curl) > 0.05) curl *= 0.98;
      x += Math.cos(angle);
      y += Math.sin(angle);
    }
    if (points.length < 38) continue;
    const light = random() < 0.6;
    const { tone, tones } = plantedTone(light, [244, 16], planting);
    const edge = varied ? 0.35 + 0.9 * random() ** 2 : 0.5;
    const deviation = points.map(([u, v]) => {
      const i = Math.floor(v) * width + Math.floor(u);
      return Math.sqrt(Math.max(0, square[i] - mean[i] ** 2));
    });
    const ground = points.map(([u, v]) => mean[Math.floor(v) * width + Math.floor(u)]);
    const average = (list: number[]) => list.reduce((s, v) => s + v, 0) / list.length;
    const wanted = plantedContrast(average(deviation), planting);
    const room = Math.abs(tone - average(ground));
    if (room < wanted) continue;
    if (points.some(([u, v]) => near[Math.floor(v) * width + Math.floor(u)] < 9)) continue;
    const opacity = Math.min(1, wanted / room);
    const half = 0.6 + 1.15 * random();
    const reach = 6;
    const local = new Map<number, number>();
    for (const [u, v] of points) {
      for (let q = Math.floor(v) - reach; q <= v + reach; q++) {
        for (let p = Math.floor(u) - reach; p <= u + reach; p++) {
          if (p < 0 || q < 0 || p >= width || q >= height) continue;
          const d = Math.hypot(p + 0.5 - u, q + 0.5 - v);
          const i = q * width + p;
          if (d < (local.get(i) ?? Infinity)) local.set(i, d);
        }
      }
    }
    for (const [i, d] of local) {
      near[i] = Math.min(near[i], d);
      const share = Math.min(1, Math.max(0, 0.5 + ((half - d) * 0.5) / edge)) * opacity;
      if (share <= 0) continue;
      for (let c = 0; c < 3; c++)
        picture.data[i * 3 + c] = Math.round(picture.data[i * 3 + c] + (tones[c] - picture.data[i * 3 + c]) * share);
    }
    lines.push(points);
  }
  return { picture, lines, near };
}

/**
 * How finds compare with what was planted, by length: recall of its px, with the margin of 1 px that a cover has at the
 * least, and precision within 3 px of it.
 */
export function matchCurves(shapes: Shape[], { picture, lines, near }: ReturnType<typeof plantCurves>) {
  const { width, height } = picture;
  return matchMask(rasterise(shapes, { x: 0, y: 0, width, height }).data, width, lines, near);
}

/** {@link matchCurves} for a cover that is a mask of the whole picture. */
export function matchMask(mask: ArrayLike<number>, width: number, lines: Point[][], near: Float32Array) {
  let [hit, all, good, mine] = [0, 0, 0, 0];
  for (const [x, y] of lines.flat()) {
    all++;
    const i = Math.floor(y) * width + Math.floor(x);
    if (mask[i] || mask[i - 1] || mask[i + 1] || mask[i - width] || mask[i + width]) hit++;
  }
  for (let i = 0; i < near.length; i++) {
    if (!mask[i]) continue;
    mine++;
    if (near[i] <= 3) good++;
  }
  return { recall: hit / Math.max(1, all), precision: good / Math.max(1, mine) };
}
