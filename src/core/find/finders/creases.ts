import type { Point } from '../../mask/shapes.ts';
import { simplified } from '../../mask/outline.ts';
import { findRidges, joinRidges, lengthOf } from '../lines/ridges.ts';
import { sigmoid, type Find, type Finder } from '../find.ts';
import { isPrint, smallPicture } from './blobs.ts';
import { halfPlane, type Plane } from '../../raster/luma.ts';

/** Share of the picture's side within which a crease must come to its edge. */
const AT_EDGE = 0.08;

/** Share of the picture's longer side over which the direction of an end is taken. */
const END = 0.03;

/**
 * A line whose ends, where they come near the picture's border, run on to it: a fold goes through to the edge of the paper, on which it
 * is hardly seen.
 */
export function toBorder(line: readonly Point[], { width, height }: { width: number; height: number }): Point[] {
  const back = END * Math.max(width, height);
  const extended = (points: readonly Point[]): Point[] => {
    const [x, y] = points[points.length - 1];
    if (Math.min(x / width, y / height, 1 - x / width, 1 - y / height) >= AT_EDGE) return points.slice();
    const from = points.findLast(([u, v]) => Math.hypot(u - x, v - y) >= back) ?? points[0];
    const [dx, dy] = [x - from[0], y - from[1]];
    const ahead = (at: number, step: number, size: number) =>
      step > 0 ? (size - at) / step : step < 0 ? -at / step : Infinity;
    const t = Math.min(ahead(x, dx, width), ahead(y, dy, height));
    const run = t * Math.hypot(dx, dy);
    // Along the border it never comes to it.
    if (!(run > 0 && run <= 2 * AT_EDGE * Math.max(width, height))) return points.slice();
    return [...points, [x + t * dx, y + t * dy]];
  };
  return extended(extended(line).reverse()).reverse();
}

/**
 * Finds creases and folds: light or dark bands, wider than scratches, that run across the print from edge to edge and may
 * zigzag. Only in pictures of one tint or with a paper border, since elsewhere a skyline runs likewise. Source: own; crest lines as in `ridges.ts` on the picture at a quarter of its size.
 */
export const creases: Finder = {
  find({ picture, luma }, onProgress) {
    const { width, height } = picture;
    if (!isPrint(smallPicture(picture, 240))) return [];
    let plane: Plane = { width, height, data: luma };
    let scale = 1;
    while (Math.max(plane.width, plane.height) > 1100) {
      plane = halfPlane(plane);
      scale *= 2;
    }
    const out: Find[] = [];
    const pieces = findRidges(plane, { sigma: 1.6, least: 10 });
    onProgress?.(0.6);
    for (const ridge of joinRidges(pieces, 60)) {
      const line = ridge.points;
      const length = lengthOf(line);
      const [a, b] = [line[0], line[line.length - 1]];
      const chord = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const side = Math.abs(b[0] - a[0]) > Math.abs(b[1] - a[1]) ? plane.width : plane.height;
      if (chord < 0.4 * side || chord < 0.8 * length) continue;
      const away = ([x, y]: readonly [number, number]) =>
        Math.min(x / plane.width, y / plane.height, 1 - x / plane.width, 1 - y / plane.height);
      const edges = (away(a) < AT_EDGE ? 1 : 0) + (away(b) < AT_EDGE ? 1 : 0);
      const reach = chord / side;
      const score = sigmoid(-5.2 + 3.2 * reach + 1.3 * edges + Math.min(2.5, ridge.strength / 8));
      if (score < 0.1) continue;
      const points = simplified(toBorder(line, plane), 0.7).map(([x, y]): [number, number] => [x * scale, y * scale]);
      const size = Math.max(4, 3.4 * scale);
      const xs = points.map((p) => p[0]);
      const ys = points.map((p) => p[1]);
      const x0 = Math.max(0, Math.floor(Math.min(...xs) - size));
      const y0 = Math.max(0, Math.floor(Math.min(...ys) - size));
      out.push({
        kind: 'crease',
        score,
        shapes: [{ op: 'add', kind: 'strand', points, size }],
        box: {
          x: x0,
          y: y0,
          width: Math.min(width, Math.ceil(Math.max(...xs) + size)) - x0,
          height: Math.min(height, Math.ceil(Math.max(...ys) + size)) - y0,
        },
        width: size,
        length: length * scale,
        contrast: (ridge.light ? 1 : -1) * ridge.strength,
      });
    }
    return out;
  },
};
