import { median } from '../../raster/luma.ts';
import type { Point } from '../../mask/shapes.ts';
import type { Contour } from './contour.ts';
import { COLUMNS, REACH, type Unwrapped } from './unwrapped.ts';

/** Levels by which what is lost differs from what is around, and share of that within which something is of its tone. */
const APART = 60;
const ALIKE = 0.5;
/** px that something reaches beyond what is lost at the least, along some of it, at its farthest, and at the most. */
const BESIDE = 3;
const FARTHEST = 5;
const MOST = 26;
/** px beyond the band that tell what is around. */
const AROUND = 12;
/** Samples along the line that it goes on for. */
const LEAST = 2;

/** Tone of a place of a band; NaN where it is not known. */
const toneAt = ({ planes }: Unwrapped, row: number, k: number) =>
  planes.reduce((s, p) => s + p[row * COLUMNS + k], 0) / planes.length;

/** How many px beyond an edge of what is lost each row is of its tone, on one side. */
function reaches(band: Unwrapped, lost: { from: number; to: number }, end: number, side: 1 | -1): number[] {
  const edge = side > 0 ? lost.to : lost.from;
  const middle = Math.round((lost.from + lost.to) / 2);
  const core = median(Array.from({ length: band.rows }, (_, row) => toneAt(band, row, middle)).filter((v) => v === v));
  return Array.from({ length: band.rows }, (_, row) => {
    const around = Array.from({ length: AROUND }, (_u, d) => toneAt(band, row, end + side * (d + 2))).filter(
      (v) => v === v,
    );
    const apart = around.length ? Math.abs(core - median(around)) : 0;
    if (apart < APART) return 0;
    let far = 0;
    for (let d = 1, missed = 0; d <= MOST && missed < 2; d++) {
      const same = Math.abs(toneAt(band, row, edge + side * d) - core) < ALIKE * apart;
      missed = same ? 0 : missed + 1;
      if (same) far = d;
    }
    return far < MOST ? far : 0;
  });
}

/**
 * What clings to the part of a line that is lost and is of its tone: a speck that lies half on a crease, outlined, px.
 * @param end first or last column in which the line does anything, by side
 * Source: own.
 */
export function clingingTo(
  band: Unwrapped,
  { x, y, nx, ny }: Contour,
  lost: { from: number; to: number },
  [from, to]: readonly [number, number],
): Point[][] {
  const out: Point[][] = [];
  for (const side of [-1, 1] as const) {
    const edge = (side > 0 ? lost.to : lost.from) - REACH;
    const far = reaches(band, lost, side > 0 ? to : from, side);
    for (let row = 0; row < band.rows; row++) {
      const first = row;
      while (row < band.rows && far[row] >= BESIDE) row++;
      const run = far.slice(first, row);
      if (run.length < LEAST || Math.max(...run) < FARTHEST) continue;
      const at = (n: number, beside: number): Point => [x[n] + nx[n] * beside, y[n] + ny[n] * beside];
      const rim = run.map((d, n) => at(first + n, edge + side * (d + 1)));
      out.push(
        [...rim, at(row - 1, edge), at(first, edge)].map(([u, v]) => [
          Math.round(10 * u) / 10,
          Math.round(10 * v) / 10,
        ]),
      );
    }
  }
  return out;
}
