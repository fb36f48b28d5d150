import type { Point } from '../../mask/shapes.ts';
import { boxMean, type Plane } from '../../raster/luma.ts';

/** What may be a speck or a thin line: where it lies, which way it stands out, its score and how much it counts. */
export interface Doubtful {
  points: readonly Point[];
  light: boolean;
  score: number;
  weight?: number;
}

/** Side of the cells in which ground is judged, and of the blocks in these, px. */
const CELL = 32;
const BLOCK = 8;
/** Levels of 255 up to which light specks show on the ground, and from which on dark ones do. */
const SHOWS = { light: 200, dark: 55 };
/** Share of a picture that its quiet ground has to have for anything to be told from it. */
const LEAST = 0.1;
/** How many quiet ground is given, with the scatter of a count, besides those that seem to lie on it: few are no proof of none. */
const BESIDES = 1;
/** The most that one is doubted, in the logit. */
const MOST = 4;

interface Ground {
  /** cells across and down */
  w: number;
  h: number;
  /** mean of each cell, and how much goes on around it */
  tone: Float32Array;
  activity: Float32Array;
}

/** How much goes on in each cell: the median of the deviations of its blocks, which a speck or two do not change. */
function groundOf({ width, height, data }: Plane): Ground {
  const w = Math.max(1, Math.floor(width / CELL));
  const h = Math.max(1, Math.floor(height / CELL));
  const tone = new Float32Array(w * h);
  const activity = new Float32Array(w * h);
  const deviations: number[] = [];
  for (let c = 0; c < w * h; c++) {
    const [x0, y0] = [(c % w) * CELL, Math.floor(c / w) * CELL];
    deviations.length = 0;
    let whole = 0;
    for (let v = y0; v + BLOCK <= Math.min(height, y0 + CELL); v += BLOCK) {
      for (let u = x0; u + BLOCK <= Math.min(width, x0 + CELL); u += BLOCK) {
        let [sum, square] = [0, 0];
        for (let y = v; y < v + BLOCK; y++)
          for (let x = u, i = y * width + u; x < u + BLOCK; x++, i++) {
            sum += data[i];
            square += data[i] ** 2;
          }
        const mean = sum / BLOCK ** 2;
        whole += mean;
        deviations.push(Math.sqrt(Math.max(0, square / BLOCK ** 2 - mean ** 2)));
      }
    }
    deviations.sort((a, b) => a - b);
    tone[c] = whole / Math.max(1, deviations.length);
    activity[c] = deviations[deviations.length >> 1] ?? 0;
  }
  return { w, h, tone, activity: boxMean({ width: w, height: h, data: activity }, 1).data };
}

/**
 * What the busier half of a picture adds to the logits of specks and thin lines on it, 0 or less, one a place of the list. Dust and hairs fall
 * wherever they fall: where as good as none lie on the quiet half, on which they would show best, what looks like them on
 * the other is detail of the picture, such as nails and bolts. Light ones are compared by where light ones show, dark ones
 * by where dark ones do.
 * Source: own.
 */
export function textureDoubt(list: readonly Doubtful[], luma: Plane): Float32Array {
  const out = new Float32Array(list.length);
  if (!list.length) return out;
  const { w, h, tone, activity } = groundOf(luma);
  const usual = activity.slice().sort()[(w * h) >> 1];
  const isBusy = (c: number) => activity[c] > usual;
  const row = (y: number) => Math.min(h - 1, Math.max(0, Math.floor(y / CELL)));
  const column = (x: number) => Math.min(w - 1, Math.max(0, Math.floor(x / CELL)));
  const grounds = list.map(({ points }) => {
    const cells = points.map(([x, y]) => row(y) * w + column(x));
    return { middle: cells[cells.length >> 1], busy: 2 * cells.filter(isBusy).length > cells.length };
  });
  for (const light of [true, false]) {
    const shows = (c: number) => (light ? tone[c] < SHOWS.light : tone[c] > SHOWS.dark);
    let [quietArea, busyArea] = [0, 0];
    for (let c = 0; c < w * h; c++) {
      if (!shows(c)) continue;
      if (isBusy(c)) busyArea++;
      else quietArea++;
    }
    if (quietArea < LEAST * w * h) continue;
    let [quiet, busy] = [0, 0];
    list.forEach(({ score, weight = 1, ...one }, i) => {
      if (one.light !== light || !shows(grounds[i].middle)) return;
      if (grounds[i].busy) busy += weight * score;
      else quiet += weight * score;
    });
    const expected = ((quiet + Math.sqrt(quiet) + BESIDES) * busyArea) / quietArea;
    if (busy <= expected) continue;
    const doubt = Math.max(-MOST, Math.log(expected / busy));
    list.forEach((one, i) => {
      if (one.light === light && grounds[i].busy) out[i] = doubt;
    });
  }
  return out;
}
