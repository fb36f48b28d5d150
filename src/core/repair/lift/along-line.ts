import { shiftPoints, type Point, type Shape } from '../../mask/shapes.ts';
import { crop, type Box, type Raster } from '../../raster/raster.ts';
import { clingingTo } from './clinging.ts';
import { STEP, type Contour } from './contour.ts';
import { measureLine, type LinedStain } from './line.ts';
import type { Over } from './over.ts';
import { readKnown } from './read-known.ts';
import { REACH, unwrap, type Known } from './unwrapped.ts';

/** The line of a cover that is a single strand; null of others, which are areas. */
export function lineOf(cover: readonly Shape[]): Point[] | null {
  const [only, ...more] = cover;
  return only?.kind === 'strand' && !more.length && only.points.length > 1 ? only.points : null;
}

/**
 * Where each pixel of a box lies beside a line: px along its normals, NaN farther than `reach` off or beyond its ends.
 */
export function besideLine(
  { count, x, y, nx, ny }: Contour,
  box: { x: number; y: number; width: number; height: number },
  reach: number,
): Float32Array {
  const { width, height } = box;
  const out = new Float32Array(width * height).fill(NaN);
  const nearest = new Float32Array(width * height).fill(reach * reach);
  for (let s = 0; s < count; s++) {
    const [cx, cy] = [x[s] - box.x, y[s] - box.y];
    const [left, right] = [Math.max(0, Math.floor(cx - reach)), Math.min(width - 1, Math.ceil(cx + reach))];
    const [top, bottom] = [Math.max(0, Math.floor(cy - reach)), Math.min(height - 1, Math.ceil(cy + reach))];
    const end = s === 0 || s === count - 1;
    for (let v = top; v <= bottom; v++)
      for (let u = left; u <= right; u++) {
        const [dx, dy] = [u + 0.5 - cx, v + 0.5 - cy];
        const far = dx * dx + dy * dy;
        const i = v * width + u;
        if (far >= nearest[i]) continue;
        nearest[i] = far;
        const along = Math.abs(dx * ny[s] - dy * nx[s]);
        out[i] = end && along > STEP ? NaN : dx * nx[s] + dy * ny[s];
      }
  }
  return out;
}

/** The model at so many px beside the line, between those of two columns; false where there is none. */
export function modelBeside(
  { models, from, to }: LinedStain,
  beside: number,
  gain: Float32Array,
  offset: Float32Array,
): boolean {
  const at = beside + REACH;
  if (!(at >= from - 1 && at <= to + 1)) return false;
  const k = Math.floor(at);
  const [a, b] = [models[k], models[k + 1]];
  // What is lost is filled in any case: it is left as it is.
  const lost = (c: number) => c >= from && c <= to && !models[c];
  if ((lost(k) && !b) || (lost(k + 1) && !a)) return false;
  for (let c = 0; c < gain.length; c++) {
    const [ga, gb] = [a ? a.gain[c] : lost(k) ? b!.gain[c] : 1, b ? b.gain[c] : lost(k + 1) ? a!.gain[c] : 1];
    const [oa, ob] = [a ? a.offset[c] : lost(k) ? b!.offset[c] : 0, b ? b.offset[c] : lost(k + 1) ? a!.offset[c] : 0];
    gain[c] = ga + (gb - ga) * (at - k);
    offset[c] = oa + (ob - oa) * (at - k);
  }
  return true;
}

const percent = (v: number) => `${Math.round(100 * v)} %`;

/** What was found, in words. */
function told({ models, from, to, lost }: LinedStain): string {
  const there = models.flatMap((m) => m ?? []);
  const light = there.reduce((s, m) => Math.max(s, 1 - m.gain[0]), 0);
  const gone = lost ? `; ${lost.to - lost.from + 1} px of it are lost and left for a fill` : '';
  return `a band of ${to - from + 1} px, up to ${percent(light)} laid over${gone}`;
}

/** What lies along a line. Null where nothing is seen or too little around it is known. */
export function overLine(points: readonly Point[], known: Known, frame: Box, bounds: Box): Over | null {
  const stain = measureLine(known, shiftPoints(points, -frame.x, -frame.y));
  if (!stain) return null;
  const reach = Math.max(REACH - stain.from, stain.to - REACH) + 2;
  const beside = besideLine(stain.line, { ...bounds, x: bounds.x - frame.x, y: bounds.y - frame.y }, reach);
  return {
    certainty: stain.certainty,
    told: told(stain),
    at: (i, gain, offset) => beside[i] === beside[i] && modelBeside(stain, beside[i], gain, offset),
  };
}

/** What is lost along the line of a cover, as a cover of its own, and how sure it is; null where nothing is seen. */
export function lostAlong(
  picture: Raster,
  cover: Shape[],
  avoid: Shape[] = [],
): { lost: Shape[]; certainty: number } | null {
  const line = lineOf(cover);
  if (!line) return null;
  const { width, height } = picture;
  const { known, frame } = readKnown({ width, height, read: (box) => crop(picture, box) }, { cover, avoid });
  const stain = measureLine(known, shiftPoints(line, -frame.x, -frame.y));
  if (!stain) return null;
  if (!stain.lost) return { lost: [], certainty: stain.certainty };
  const { line: at, lost } = stain;
  const middle = (lost.from + lost.to) / 2 - REACH;
  const points = Array.from(at.x, (x, i): Point => [
    Math.round(10 * (x + at.nx[i] * middle + frame.x)) / 10,
    Math.round(10 * (at.y[i] + at.ny[i] * middle + frame.y)) / 10,
  ]);
  return {
    lost: [
      {
        op: 'add',
        kind: 'strand',
        points: points.filter((_, i) => i % 3 === 0 || i === points.length - 1),
        size: lost.to - lost.from + 1,
      },
      ...clingingTo(unwrap(known, at), at, lost, [stain.from, stain.to]).map((outline): Shape => ({
        op: 'add',
        kind: 'outline',
        points: outline.map(([x, y]): Point => [x + frame.x, y + frame.y]),
      })),
    ],
    certainty: stain.certainty,
  };
}
