import { ciede2000 } from '../../tone/lab.ts';
import { boxOfRows, type Band, type Lab } from '../band.ts';
import { apart, largestAround, tonesAlong } from '../border-steps.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { meanOver, runsOf, type Run } from '../runs.ts';

/** CIEDE2000 by which a step has to be more than what the picture itself does beside it, and how many times as much. */
const MORE = 1.6;
const TIMES = 1.2;
/** Samples of the border (2 px each) that a step has to go on for; and to both sides over which the picture is looked at. */
const LEAST = 10;
const BESIDE = 12;
/** Difference of two grounds, and the share of a step that leads to the other one, for it to be no step of its own. */
const GROUNDS = 8;
const TOWARDS = 0.55;

/** The ground elsewhere along a border that a tone inside belongs to; null when it is none of them. */
function otherGround(outside: Array<Lab | null>, run: Run, inside: Lab, own: Lab): Lab | null {
  const n = outside.length;
  let best: Lab | null = null;
  let least = (1 - TOWARDS) * ciede2000(inside, own);
  for (let k = run.to + 4; k < run.from - 4 + n; k += 3) {
    const other = outside[k % n];
    if (!other || ciede2000(other, own) < GROUNDS) continue;
    const off = ciede2000(other, inside);
    if (off >= least) continue;
    least = off;
    best = other;
  }
  return best;
}

/** Mean tone over a stretch. */
const toneOver = (tones: Array<Lab | null>, run: Run): Lab =>
  [0, 1, 2].map((c) => meanOver(run, tones.length, (i) => tones[i]?.[c] ?? NaN)) as Lab;

/** Steps of one border. */
function stepsAlong(place: Place, band: Band): Sign[] {
  const { inside, near, deeper, farther, far } = tonesAlong(band);
  const n = band.rows;
  const step = Float32Array.from({ length: n }, (_, i) => apart(inside[i], near[i]));
  // What the picture does between places as far apart, on both sides of the border.
  const usual = largestAround(
    Float32Array.from({ length: n }, (_, i) =>
      Math.max(
        0,
        ...[apart(near[i], farther[i]), apart(farther[i], far[i]), apart(inside[i], deeper[i])].filter((v) => v === v),
      ),
    ),
    BESIDE,
  );
  const excess = (i: number) => step[i] - TIMES * usual[i];
  return runsOf(n, (i) => excess(i) > MORE, Math.min(LEAST, Math.round(0.6 * n))).flatMap((run): Sign[] => {
    const figure = meanOver(run, n, (i) => step[i]);
    const other = otherGround(near, run, toneOver(inside, run), toneOver(near, run));
    // What is as another ground around is a border that runs beside the cover's, or a smear.
    if (other) return [];
    return [
      {
        kind: 'tone-step',
        box: inPicture(place, boxOfRows(band, run.from, run.to, 8)),
        figure,
        unit: 'CIEDE2000',
        difference: figure - meanOver(run, n, (i) => usual[i]) / 2,
        across: 12,
        along: 2 * run.length,
        remedy: 'match-tone',
      },
    ];
  });
}

/**
 * Steps in tone across a cover's border that the picture beside it does not have (tone over 6 px each, CIEDE2000). Those that
 * lead to the colour of another ground around the cover are left to smears.
 * Source: own, over CIEDE2000 (see `lab.ts`).
 */
export const toneStep = (place: Place): Sign[] => place.bands.flatMap((band) => stepsAlong(place, band));
