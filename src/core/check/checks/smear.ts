import { ciede2000 } from '../../tone/lab.ts';
import { boxOfRows, jumpsOf, meanAt, type Band, type Lab } from '../band.ts';
import { apart, together, tonesAlong } from '../border-steps.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { meanOver, runsOf } from '../runs.ts';

/** CIEDE2000 by which a smear stands out from the ground that it lies on, and by which grounds differ. */
const STANDS = 6.5;
const GROUNDS = 8;
/** Shares of that which may be left between the smear and the other ground, farther in, and farther out. */
const OTHER = 0.5;
const BACK = 0.5;
const EVEN = 0.4;
/** Samples of the border it runs along at the least. */
const LEAST = 8;
/** Share of it by which tone jumps on the border itself, where a border of the picture's own would lie anywhere. */
const JUMP = 0.75;

/** Tones of other grounds around a cover, a few of them. */
function groundsOf(near: Array<Lab | null>): Lab[] {
  const out: Lab[] = [];
  for (let k = 0; k < near.length; k += 3) {
    const tone = near[k];
    if (tone && !out.some((o) => ciede2000(o, tone) < GROUNDS / 2)) out.push(tone);
  }
  return out;
}

function smearsAlong(place: Place, band: Band): Sign[] {
  const { near, farther, deeper, heart } = tonesAlong(band);
  const n = band.rows;
  const shallow = together(
    Array.from({ length: n }, (_, row) => meanAt(band, row, -5, -1)),
    2,
  );
  const outside = together(
    Array.from({ length: n }, (_, row) => meanAt(band, row, 2, 7)),
    2,
  );
  const grounds = groundsOf(near);
  const jumps = jumpsOf(band);
  const stands = (i: number): number => {
    const [own, at] = [outside[i], shallow[i]];
    if (!own || !at) return 0;
    const off = ciede2000(at, own);
    if (off < STANDS || !(apart(own, farther[i]) < EVEN * off)) return 0;
    if (!(Math.min(apart(deeper[i], own) || Infinity, apart(heart[i], own) || Infinity) < BACK * off)) return 0;
    return grounds.some((g) => ciede2000(g, own) > GROUNDS && ciede2000(g, at) < OTHER * off) ? off : 0;
  };
  const list = Float32Array.from({ length: n }, (_, i) => stands(i));
  return runsOf(n, (i) => list[i] > 0, LEAST).flatMap((run): Sign[] => {
    const figure = meanOver(run, n, (i) => list[i] || NaN);
    if (meanOver(run, n, (i) => jumps[i]) < JUMP * figure) return [];
    return [
      {
        kind: 'smear',
        box: inPicture(place, boxOfRows(band, run.from, run.to, 8)),
        figure,
        unit: 'CIEDE2000',
        difference: figure,
        across: 5,
        along: 2 * run.length,
        remedy: 'other-try',
      },
    ];
  });
}

/**
 * Smears: along a cover's border, inside it, a strip of the colour of another ground around the cover, where outside and farther in
 * the own one lies.
 * Source: own.
 */
export const smear = (place: Place): Sign[] => place.bands.flatMap((band) => smearsAlong(place, band));
