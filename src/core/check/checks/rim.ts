import { boxOfRows, jumpsOf, meanAt, type Band, type Lab } from '../band.ts';
import { quantile } from '../../raster/luma.ts';
import { together } from '../border-steps.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { meanOver, runsOf } from '../runs.ts';
import { ciede2000 } from '../../tone/lab.ts';

/** Samples taken together to both sides, and that a rim has to go on for. */
const TOGETHER = 3;
const LEAST = 11;
/** Samples in a row by which a rim may be interrupted. */
const GAP = 3;
/** Samples of a border for each of which one more is asked for: the longer it is, the more happens along it by chance. */
const LONG = 70;
/** CIEDE2000 by which a rim stands out on both its sides. */
const STANDS = 4;
/** Share of all places beside it that stand out less. */
const OFTEN = 0.985;
/** Share of it by which tone jumps on the border itself, where a thing of the picture's own would begin anywhere. */
const JUMP = 0.5;
/** Share of a soft rim that is left farther out, from which on it is a shadow's. */
const SOFT = 0.35;
/** Change of colour beside that of lightness up to which something is shade rather than a thing: colour fades as lightness does. */
const SHADE = 0.45;

const minus = (p: Lab, q: Lab): Lab => [p[0] - q[0], p[1] - q[1], p[2] - q[2]];
const dot = (p: Lab, q: Lab) => p[0] * q[0] + p[1] * q[1] + p[2] * q[2];

interface Rim {
  /** CIEDE2000 by which it stands out at the least */
  stands: number;
  off: Lab;
}

/** How much a stretch stands out from both its sides in one direction. */
function standsOut(one: Lab | null, middle: Lab | null, other: Lab | null): Rim | null {
  if (!one || !middle || !other) return null;
  const [p, q] = [minus(middle, one), minus(middle, other)];
  const along = dot(p, q) / (Math.sqrt(dot(p, p) * dot(q, q)) || 1);
  if (along < 0.6) return null;
  return { stands: Math.min(ciede2000(middle, one), ciede2000(middle, other)), off: dot(p, p) < dot(q, q) ? p : q };
}

/** Columns of a rim of some width, and of its sides; how far off like stretches beside it are looked at, and how many times as much it stands out. */
const WIDTHS = [
  { rim: [1, 3], inside: [-7, -3], far: [7, 12], shifts: [-16, -12, -9, 6, 9, 12, 16], times: 2.3 },
  { rim: [1, 6], inside: [-9, -3], far: [13, 22], shifts: [-16, -11, 5, 8], times: 2.3 },
  { rim: [2, 12], inside: [-12, -3], far: [22, 30], shifts: [-16, -12], times: 1.6 },
] as const;

function rimsAlong(place: Place, band: Band): Sign[] {
  const n = band.rows;
  const columns = (from: number, to: number) =>
    together(
      Array.from({ length: n }, (_, row) => meanAt(band, row, from, to)),
      TOGETHER,
    );
  const out: Sign[] = [];
  const jumps = jumpsOf(band);
  for (const { rim, inside, far, shifts, times } of WIDTHS) {
    /** How much rows stand out at some columns, each worked out once it is asked for. */
    const at = (by: number) => {
      const [i, m, f] = [inside, rim, far].map(([from, to]) => columns(from + by, to + by));
      const known: Array<Rim | null | undefined> = new Array<undefined>(n).fill(undefined);
      return (k: number) => (known[k] === undefined ? (known[k] = standsOut(i[k], m[k], f[k])) : known[k]);
    };
    const ownAt = at(0);
    const own = Array.from({ length: n }, (_, k) => ownAt(k));
    const least = LEAST + n / LONG;
    // Nearly everywhere nothing stands out at all, and what is usual beside it need not be known.
    if (!runsOf(n, (k) => (own[k]?.stands ?? 0) > STANDS, least, GAP).length) continue;
    const beside = shifts.map(at);
    const usual = new Float64Array(n).fill(NaN);
    const usualAt = (k: number) => {
      if (usual[k] === usual[k]) return usual[k];
      let most = 0;
      for (const list of beside)
        for (let d = -10; d <= 10; d++) most = Math.max(most, list((k + d + n) % n)?.stands ?? 0);
      return (usual[k] = most);
    };
    let often: number | undefined;
    const anywhere = () =>
      (often ??= quantile(
        beside.flatMap((list) => own.map((_, k) => list(k)?.stands ?? 0)),
        OFTEN,
      ));
    const outer = columns(9, 16);
    const edge = columns(far[0], far[1]);
    const standing = (k: number) => {
      const stands = own[k]?.stands ?? 0;
      return stands > STANDS && stands > times * usualAt(k);
    };
    for (const run of runsOf(n, standing, least, GAP)) {
      const figure = meanOver(run, n, (k) => own[k]?.stands ?? NaN);
      // What goes on for long is no chance, however lively the border is elsewhere.
      if (figure < anywhere() * Math.min(1, least / (run.length - LEAST))) continue;
      if (meanOver(run, n, (k) => jumps[k]) < JUMP * figure) continue;
      const off = [0, 1, 2].map((c) => meanOver(run, n, (k) => own[k]?.off[c] ?? NaN)) as Lab;
      const left = meanOver(run, n, (k) => (outer[k] && edge[k] ? minus(outer[k], edge[k])[0] / off[0] : NaN));
      const ground = [0, 1, 2].map((c) => meanOver(run, n, (k) => edge[k]?.[c] ?? NaN)) as Lab;
      const faded = [1, 2].map((c) => off[c] - (ground[c] * off[0]) / (ground[0] + 8));
      const shade = off[0] < 0 && Math.hypot(...faded) < SHADE * -off[0] && (rim[1] >= 12 || left > SOFT);
      out.push({
        kind: shade ? 'shadow' : 'leftover',
        box: inPicture(place, boxOfRows(band, run.from, run.to, rim[1] + 2)),
        figure,
        unit: 'CIEDE2000',
        difference: figure - meanOver(run, n, usualAt),
        across: rim[1],
        along: 2 * run.length,
        remedy: shade ? 'cover-shadow' : 'widen-margin',
      });
    }
  }
  return out;
}

/**
 * What is left beside a cover: a rim that stands out from what lies inside and from what lies farther out, more than stretches beside it
 * do. Dark, soft and of the ground's own colour it may be the shadow of what was removed.
 * Source: own.
 */
export const rim = (place: Place): Sign[] => place.bands.flatMap((band) => rimsAlong(place, band));
