import { quantile } from '../../raster/luma.ts';
import type { Contour } from '../../repair/lift/contour.ts';
import { boxOfRows } from '../band.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { meanOver, runsOf, type Run } from '../runs.ts';

/** px across that a thin cover has at the most, and at the least for what is soft in it to be seen. */
const WIDEST = 22;
const NARROWEST = 5;
/** px beyond both its borders that tell what lies there. */
const BESIDE = [1, 4] as const;
/** Levels by which both sides differ at the least. */
const CONTRAST = 40;
/** px over which a step is told. */
const STEP = 3;
/** Share of a contrast that lies within one step: less is soft, and where the picture's own edges are sharp at least so much does. */
const SOFT = 0.55;
const SHARP = 0.9;
/** Share of the edges around that have to be as sharp, and how many are needed to tell. */
const SHARE = 0.3;
const ENOUGH = 12;
/** Samples along a border that it goes on for at the least, and that it may be interrupted for. */
const LEAST = 16;
const GAP = 3;
/** Samples before and after a stretch whose surroundings tell of it, and share of its contrast that edges there have. */
const NEAR = 30;
const LIKE = 0.4;
/** px beside a cover at which the picture's own edges are looked at. */
const OWN = [4, 8, 12, 16, 20, 28, 36] as const;

/** Brightness along a way, px by px from just within a border; NaN beyond what is known. */
type Way = (t: number) => number;

/** How much of a contrast lies within one step, at the most; both in levels. */
function steepest(way: Way, width: number): { contrast: number; share: number } | null {
  const side = (sign: 1 | -1, from: number) => {
    let sum = 0;
    for (let d = BESIDE[0]; d <= BESIDE[1]; d++) sum += way(from + sign * d);
    return sum / (BESIDE[1] - BESIDE[0] + 1);
  };
  const contrast = side(1, width) - side(-1, 0);
  if (!(Math.abs(contrast) >= CONTRAST)) return null;
  let most = 0;
  for (let t = -1; t <= width + 1 - STEP; t++) {
    const step = (way(t + STEP) - way(t)) / contrast;
    if (step > most) most = step;
  }
  return { contrast: Math.abs(contrast), share: most };
}

function rampsAlong(place: Place, contour: Contour): Sign[] {
  const { width, height, what, luma } = place;
  const { count, x, y, nx, ny } = contour;
  const index = (row: number, t: number) => {
    const [u, v] = [Math.floor(x[row] - t * nx[row]), Math.floor(y[row] - t * ny[row])];
    return u < 0 || v < 0 || u >= width || v >= height ? -1 : v * width + u;
  };
  /** px to the other border; 0 where there is none near. */
  const across = Float32Array.from({ length: count }, (_, row) => {
    for (let t = 1; t <= WIDEST; t++) {
      const i = index(row, t);
      if (i < 0 || what[i] === 2) return 0;
      if (t > 1 && !what[i]) return t;
    }
    return 0;
  });
  const wayOf =
    (row: number, on: 0 | 1, from = 0): Way =>
    (t) => {
      const i = index(row, t + from);
      return i < 0 || what[i] === 2 || (!on && what[i]) ? NaN : luma[i];
    };
  const found = Array.from({ length: count }, (_, row) =>
    across[row] >= NARROWEST ? steepest(wayOf(row, 1), across[row]) : null,
  );
  const soft = (row: number) => found[row] !== null && found[row].share < SOFT;
  const runs = runsOf(count, soft, LEAST, GAP);
  if (!runs.length) return [];
  /** Whether the picture's own edges of such a contrast are sharp beside a stretch, over as many px. */
  const sharpBeside = (run: Run, contrast: number): boolean => {
    const own: number[] = [];
    for (let k = run.from - NEAR; k <= run.to + NEAR; k++)
      for (const beside of OWN) {
        const row = ((k % count) + count) % count;
        const wide = Math.max(NARROWEST, across[row]);
        for (const from of [-beside - wide, beside + across[row]]) {
          const edge = steepest(wayOf(row, 0, from), wide);
          if (edge && edge.contrast >= LIKE * contrast) own.push(edge.share);
        }
      }
    return own.length >= ENOUGH && quantile(own, 1 - SHARE) >= SHARP;
  };
  return runs.flatMap((run): Sign[] => {
    const mean = (of: (row: number) => number) => meanOver(run, count, (row) => (soft(row) ? of(row) : NaN));
    const wide = mean((row) => across[row]);
    const contrast = mean((row) => found[row]!.contrast);
    if (!sharpBeside(run, contrast)) return [];
    return [
      {
        kind: 'smear',
        box: inPicture(place, boxOfRows({ contour }, run.from, run.to, wide)),
        figure: wide,
        unit: 'px over which an edge is drawn out',
        difference: 0.35 * mean((row) => found[row]!.contrast * (1 - found[row]!.share)),
        across: wide,
        along: 2 * run.length,
        remedy: 'copy-along',
      },
    ];
  });
}

/**
 * Edges that run nearly along a thin cover: what is predicted between both its sides fades from one to the other, where edges beside it
 * are sharp.
 * Source: own.
 */
export const ramp = (place: Place): Sign[] => place.bands.flatMap(({ contour }) => rampsAlong(place, contour));
