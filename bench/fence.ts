// Fences of known truth, planted in photographs, with clips and knots on them.
import type { Point } from '../src/core/mask/shapes.ts';
import { boxMean, lumaPlane } from '../src/core/raster/luma.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { traceStrand } from '../src/core/find/strand/strand.ts';
import type { PlantedSpeck } from './specks.ts';

/** From a field of distances. */
export const distance = (near: Float32Array, width: number, [x, y]: Point) =>
  near[Math.floor(y) * width + Math.floor(x)] ?? 99;

/** Distance of each pixel from the nearest line, px, up to `most`; 99 beyond. */
export function field(lines: Point[][], width: number, height: number, most = 7): Float32Array {
  const near = new Float32Array(width * height).fill(99);
  for (const line of lines)
    for (const [x, y] of line)
      for (let v = Math.floor(y) - most; v <= y + most; v++)
        for (let u = Math.floor(x) - most; u <= x + most; u++) {
          if (u < 0 || v < 0 || u >= width || v >= height) continue;
          const d = Math.hypot(u + 0.5 - x, v + 0.5 - y);
          if (d < near[v * width + u]) near[v * width + u] = d;
        }
  return near;
}

/** How much of its ground a strand of a planted fence hides. */
export const OPACITY = 0.9;

export interface FenceOptions {
  random: () => number;
  tone: number;
  /** half the width of a strand, px; or at the left and at the right end of the picture, growing evenly between; default 2.4 */
  half?: number | readonly [left: number, right: number];
  /** px between strands; default 74 */
  gap?: number;
}

/** Plants a fence seen at an angle: spacing shrinks to the right, strands bend a little each in its own way, focus changes. */
export function plantFence(clean: Raster, { random, tone, half = 2.4, gap = 74 }: FenceOptions) {
  const { width, height } = clean;
  const picture: Raster = { ...clean, data: clean.data.slice() };
  const families: Point[][][] = [];
  for (const lean of [0.9, -0.8]) {
    const lines: Point[][] = [];
    const phase = random() * 6;
    for (let n = -40; n < 60; n++) {
      const x0 = width * 0.3 + gap * n * (1 - 0.0022 * n);
      const bend = 2 + 3 * random();
      const wave = 90 + 80 * random();
      const line: Point[] = [];
      for (let y = 0; y < height; y += 0.5) {
        const x = x0 + lean * (y - height / 2) * (1 - 0.0012 * n) + bend * Math.sin(y / wave + phase + n);
        if (x >= 0 && x < width) line.push([x, y]);
      }
      if (line.length > 80) lines.push(line);
    }
    families.push(lines);
  }
  const all = families.flat();
  const [thin, thick] = typeof half === 'number' ? [half, half] : half;
  const near = field(all, width, height, Math.max(7, Math.ceil(Math.max(thin, thick)) + 9));
  const halfAt = (x: number) => thin + ((thick - thin) * x) / width;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const soft = 0.7 + (1.6 * x) / width;
      const share = Math.min(1, Math.max(0, 0.5 + (halfAt(x) - near[i]) / (2 * soft)));
      if (share > 0)
        for (let c = 0; c < 3; c++)
          picture.data[i * 3 + c] = Math.round(
            picture.data[i * 3 + c] + (tone - picture.data[i * 3 + c]) * share * OPACITY,
          );
    }
  }
  return { picture, families, all, near, halfAt };
}

/** Levels by which a clip differs from what is around it: less nobody sees. */
const SEEN = 25;

/** Clips and knots: ellipses 1.8 to 3.6 times as wide as a strand, of about its tone or that of bare metal, hard or soft. */
export function plantClips(picture: Raster, lines: Point[][], tone: number, half: number, random: () => number) {
  const { width, height } = picture;
  const luma = lumaPlane(picture);
  const around = boxMean({ width, height, data: luma }, 14).data;
  const owner = new Uint16Array(width * height);
  const list: PlantedSpeck[] = [];
  for (let tries = 0; list.length < 40 && tries < 4000; tries++) {
    const line = lines[Math.floor(random() * lines.length)];
    const [x, y] = line[Math.floor(random() * line.length)];
    if (x < 30 || y < 30 || x > width - 30 || y > height - 30) continue;
    if (list.some((c) => Math.hypot(c.x - x, c.y - y) < 60)) continue;
    const rx = half * (1.8 + 1.8 * random());
    const ry = rx * (0.6 + 0.4 * random());
    const turn = random() * Math.PI;
    const metal = random() < 0.5 ? tone : tone + (tone < 128 ? 1 : -1) * 50 * random();
    const soft = 0.6 + 1.2 * random();
    if (Math.abs(metal - around[Math.floor(y) * width + Math.floor(x)]) < SEEN) continue;
    let area = 0;
    for (let v = Math.floor(y - 20); v <= y + 20; v++)
      for (let u = Math.floor(x - 20); u <= x + 20; u++) {
        const [p, q] = [u + 0.5 - x, v + 0.5 - y];
        const d = Math.hypot(
          (p * Math.cos(turn) + q * Math.sin(turn)) / rx,
          (q * Math.cos(turn) - p * Math.sin(turn)) / ry,
        );
        const share = Math.min(1, Math.max(0, 0.5 + ((1 - d) * ry) / (2 * soft)));
        if (share >= 0.5) {
          owner[v * width + u] = list.length + 1;
          area++;
        }
        const i = (v * width + u) * 3;
        for (let c = 0; c < 3; c++)
          picture.data[i + c] = Math.round(picture.data[i + c] + (metal - picture.data[i + c]) * share * 0.95);
      }
    list.push({ x, y, rx, ry, area });
  }
  return { owner, list };
}

/** px from a strand within which a cover is right. */
const NEAR = 6;

/** How well a cover fits a planted fence: share of it within 6 px of a strand, share of the strands in it, and how much of the picture it takes. */
export function coverFigures(
  cover: ArrayLike<number>,
  { near, halfAt }: Pick<ReturnType<typeof plantFence>, 'near' | 'halfAt'>,
  width: number,
): { right: number; recall: number; share: number } {
  let [mine, within, all, both] = [0, 0, 0, 0];
  for (let i = 0; i < cover.length; i++) {
    const off = near[i] - halfAt(i % width);
    if (off <= 0) all++;
    if (!cover[i]) continue;
    mine++;
    if (off <= NEAR) within++;
    if (off <= 0) both++;
  }
  return { right: within / mine, recall: both / all, share: mine / cover.length };
}

/** Traces two neighbouring strands of each direction, as somebody would point at them. */
export function traceTwoOfEach(picture: Raster, families: Point[][][], random: () => number) {
  return families.flatMap((lines) => {
    const m = lines.length >> 1;
    return [m, m + 1].map((k) => {
      const line = lines[k];
      const pick = [0.15, 0.32, 0.5, 0.68, 0.85].map((t): Point => line[Math.floor(t * (line.length - 1))]);
      return traceStrand(
        picture,
        pick.map(([x, y]) => [x + random() * 2 - 1, y + random() * 2 - 1]),
      );
    });
  });
}
