import { quantile } from '../../raster/luma.ts';
import { bestPath } from './best-path.ts';
import { lineThrough, type Contour } from './contour.ts';
import type { Model } from './model.ts';
import { COLUMNS, REACH, unwrap, type Known, type Unwrapped } from './unwrapped.ts';

/** px beside a band that it is compared with. */
export const BESIDE = 12;
/** px by which the line is moved at most to lie where it is seen, and how often. */
const NEAR = 9;
const ROUNDS = 3;
/** px on both sides of the line that are compared, and levels that are as wrong as any. */
const COMPARED = 16;
const WRONG = 45;

/** Mean of all channels of a band. */
function toneOf({ planes }: Unwrapped): Float32Array {
  return planes[0].map((v, i) => planes.reduce((s, p) => s + p[i], 0) / planes.length);
}

/** The tone beside a band at each row, `inner` px off on both sides. */
function besideOf(tone: Float32Array, rows: number, inner: number): Float32Array {
  return Float32Array.from({ length: rows }, (_, row) => {
    const side = (left: number) => {
      let [sum, n] = [0, 0];
      for (let k = row * COLUMNS + left; k < row * COLUMNS + left + BESIDE; k++) {
        if (tone[k] !== tone[k]) continue;
        sum += tone[k];
        n++;
      }
      return n ? sum / n : NaN;
    };
    const [a, b] = [side(REACH - inner - BESIDE), side(REACH + inner + 1)];
    return a !== a ? b : b !== b ? a : (a + b) / 2;
  });
}

/** Median of what departs from what is beside at each column. */
function columnsOf(tone: Float32Array, beside: Float32Array): Float32Array {
  return Float32Array.from({ length: COLUMNS }, (_, k) => {
    const list: number[] = [];
    beside.forEach((usual, row) => {
      const v = tone[row * COLUMNS + k] - usual;
      if (v === v) list.push(v);
    });
    return list.length ? quantile(list, 0.5) : 0;
  });
}

/**
 * Moves a line so that what departs goes across it everywhere as it usually does, or as models of its columns say for the tone there.
 * @param inner px on both sides within which it may depart
 */
export function alignLine(
  known: Known,
  drawn: Contour,
  inner: number,
  shows?: ReadonlyArray<Model | null>,
): { line: Contour; band: Unwrapped; profile: Float32Array } {
  const means = shows?.map((m) => m && [meanOf(m.gain), meanOf(m.offset)]);
  let line = drawn;
  for (let round = 0; ; round++) {
    const band = unwrap(known, line);
    const tone = toneOf(band);
    const beside = besideOf(tone, band.rows, inner);
    const profile = columnsOf(tone, beside);
    if (round === ROUNDS) return { line, band, profile };
    const columns = 2 * NEAR + 1;
    const scores = new Float32Array(band.rows * columns);
    const expected = new Float32Array(2 * COMPARED + 1);
    for (let row = 0; row < band.rows; row++) {
      for (let d = -COMPARED; d <= COMPARED; d++) {
        const m = means?.[REACH + d];
        expected[d + COMPARED] = means
          ? m
            ? m[0] * beside[row] + m[1]
            : beside[row]
          : beside[row] + profile[REACH + d];
      }
      for (let k = 0; k < columns; k++) {
        let sum = 0;
        for (let d = 0, i = row * COLUMNS + REACH - COMPARED + k - NEAR; d <= 2 * COMPARED; d++, i++)
          sum -= tone[i] === tone[i] ? Math.min(1, Math.abs(tone[i] - expected[d]) / WRONG) : 0.7;
        scores[row * columns + k] = sum;
      }
    }
    const path = bestPath(scores, band.rows, NEAR, { bent: 0.25, away: 0, open: true });
    const { x, y, nx, ny } = line;
    line = lineThrough(Array.from(path, (by, i): [number, number] => [x[i] + nx[i] * by, y[i] + ny[i] * by]));
  }
}

const meanOf = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length;
