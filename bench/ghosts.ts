// Strands planted in photographs with soft edges, faint ones too; traced, covered and filled as one press does; and what is left of each.
import { findingsOf } from '../src/core/check/check.ts';
import { bestOf, showing } from '../src/core/check/order.ts';
import { signsOfRepair } from '../src/core/check/repair.ts';
import { strandCover } from '../src/core/find/strand/strand-cover.ts';
import { traceStrand } from '../src/core/find/strand/strand.ts';
import type { Point } from '../src/core/mask/shapes.ts';
import { advise } from '../src/core/plan/advice.ts';
import { measureFault } from '../src/core/plan/cover.ts';
import { lumaPlane, median } from '../src/core/raster/luma.ts';
import { compositeOver, type Patch } from '../src/core/raster/patch.ts';
import { crop, type Raster } from '../src/core/raster/raster.ts';
import { DEFAULT_FILL, depthOfStrands, stylesFor } from '../src/core/repair/fill/settings.ts';
import { renderRepair, versionOf } from '../src/core/repair/registry.ts';
import type { FillSpec } from '../src/core/repair/spec.ts';
import { ciede2000, labOf } from '../src/core/tone/lab.ts';
import { remedied } from '../src/document/edits/remedies.ts';

export interface GhostCase {
  truth: Raster;
  line: (t: number) => Point;
  width: number;
  /** px by which its edges are blurred, standard deviation */
  soft: number;
  /** levels by which it is lighter (or darker, below 0) than its ground */
  contrast: number;
  /** whether it was sharpened, as cameras do */
  sharpened: boolean;
}

/** px along a strand over which what is left is taken together. */
const RUN = 40;

/** Error function. Source: Abramowitz and Stegun 7.1.26. */
function erf(x: number): number {
  const t = 1 / (1 + 0.3275911 * Math.abs(x));
  const y =
    1 -
    ((((1.061405429 * t - 1.453152027) * t + 1.421413741) * t - 0.284496736) * t + 0.254829592) * t * Math.exp(-x * x);
  return x < 0 ? -y : y;
}

/** How much of a blurred strand shows at a distance from its centre line. */
function shareOf(d: number, width: number, soft: number): number {
  const s = Math.max(0.4, soft) * Math.SQRT2;
  return (erf((d + width / 2) / s) - erf((d - width / 2) / s)) / 2;
}

/** px over which a camera sharpens, and how much: a pale line beside a dark strand (common practice, values from memory). */
const SHARPENED = { by: 2, amount: 0.4 };

/** The same as a camera leaves it: with a halo of the other sign beside it. */
const sharpenedShare = (d: number, width: number, soft: number): number => {
  const own = shareOf(d, width, soft);
  return own + SHARPENED.amount * (own - shareOf(d, width, Math.hypot(soft, SHARPENED.by)));
};

/** Points of a line every half px. */
function dense(line: (t: number) => Point): Point[] {
  const [a, b] = [line(0), line(1)];
  const n = Math.ceil(2.4 * Math.hypot(b[0] - a[0], b[1] - a[1]));
  return Array.from({ length: n + 1 }, (_, i) => line(i / n));
}

/** Paints the strand; it keeps its contrast to the ground, as one does before an even sky. */
function planted({ truth, line, width, soft, contrast, sharpened }: GhostCase): Raster {
  const data = truth.data.slice();
  const near = new Map<number, number>();
  const reach = Math.ceil(width / 2 + 3.5 * soft + (sharpened ? 5 : 2));
  for (const [x, y] of dense(line))
    for (let v = Math.floor(y) - reach; v <= y + reach; v++)
      for (let u = Math.floor(x) - reach; u <= x + reach; u++) {
        if (u < 0 || v < 0 || u >= truth.width || v >= truth.height) continue;
        const i = v * truth.width + u;
        const d = Math.hypot(u + 0.5 - x, v + 0.5 - y);
        if (d < (near.get(i) ?? Infinity)) near.set(i, d);
      }
  const luma = lumaPlane(truth);
  const ground = median([...near.keys()].filter((_, n) => n % 7 === 0).map((i) => luma[i]));
  for (const [i, d] of near) {
    const share = (sharpened ? sharpenedShare : shareOf)(d, width, soft);
    for (let c = 0; c < 3; c++) {
      const p = 3 * i + c;
      const own = Math.min(255, Math.max(0, ground + contrast));
      data[p] = Math.min(255, Math.max(0, Math.round(data[p] + (own - data[p]) * share)));
    }
  }
  return { ...truth, data };
}

export interface Ghost {
  /** the worst run of what is left of it, CIEDE2000 */
  left: number;
  /** px from the centre line at which that is */
  at: number;
  /** px that the cover with its margin is across, and px across that the strand is seen (2 % of it) */
  covered: number;
  seen: number;
  /** what checks object to in what is shown, and in the first try */
  said: string;
  first: string;
}

/** Traces, covers and fills a planted strand as one press at the bench does, with what Check tries by itself, and measures what is left. */
export function ghostOf(one: GhostCase, random: () => number): Ghost {
  const picture = planted(one);
  const { truth, line, width, soft } = one;
  const clicks = [0, 1].map((t): Point => {
    const [x, y] = line(t);
    return [x + random() * 2 - 1, y + random() * 2 - 1];
  });
  const shapes = strandCover(traceStrand(picture, clicks));
  const facts = measureFault(shapes, truth);
  const advice = advise(picture, 'strand', shapes, facts.width);
  const first: FillSpec = {
    ...DEFAULT_FILL,
    method: 'fill',
    style: stylesFor(depthOfStrands(facts.width / 2 + advice.margin))[0],
    cover: shapes,
    margin: advice.margin,
    feather: advice.feather,
    donorArea: [],
    barred: [],
    avoid: [],
    seed: 1,
    version: versionOf('fill'),
  };
  const beneath = { ...truth, read: (box: Parameters<typeof crop>[1]) => crop(picture, box) };
  const made = [first].map((spec) => made1(spec));
  function made1(spec: FillSpec) {
    const { patch } = renderRepair(beneath, spec);
    return { spec, patch, found: findingsOf(signsOfRepair(beneath, spec, patch), Math.max(truth.width, truth.height)) };
  }
  for (let round = 0; round < 2; round++) {
    const best = made[bestOf(made.map((m) => m.found))];
    const worst = showing(best.found);
    const next =
      worst &&
      remedied(
        best.spec,
        worst,
        made.map((m) => m.spec),
        7 + round,
      );
    if (!next) break;
    made.push(made1(next.spec));
  }
  const chosen = made[bestOf(made.map((m) => m.found))];
  const after: Raster = { ...picture, data: picture.data.slice() };
  compositeOver(after, { x: 0, y: 0 }, chosen.patch, 1);
  const covered = facts.width + 2 * chosen.spec.margin;
  const kinds = (found: typeof chosen.found) =>
    found
      .filter((f) => f.severity >= 0.5)
      .map((f) => f.kind)
      .join(' ') || '-';
  return {
    ...leftOf(one, after, chosen.patch),
    covered,
    seen: width + 4.1 * soft,
    said: kinds(chosen.found),
    first: kinds(made[0].found),
  };
}

/** The worst run along a strand in which what is shown still differs from the truth towards the strand. */
function leftOf({ truth, line, width, soft }: GhostCase, after: Raster, patch: Patch): { left: number; at: number } {
  const points = dense(line);
  const far = Math.ceil(width / 2 + 3 * soft + 6);
  const size = 2 * RUN;
  let worst = { left: 0, at: 0 };
  for (let from = size; from + size < points.length - size; from += RUN)
    for (let d = -far; d <= far; d++) {
      const sums = [0, 0, 0, 0, 0, 0];
      let n = 0;
      let made = 0;
      for (let i = from; i < from + size; i++) {
        const [a, b] = [points[i - 1], points[i + 1]];
        const span = Math.hypot(b[0] - a[0], b[1] - a[1]);
        const u = Math.floor(points[i][0] - ((b[1] - a[1]) / span) * d);
        const v = Math.floor(points[i][1] + ((b[0] - a[0]) / span) * d);
        if (u < 0 || v < 0 || u >= truth.width || v >= truth.height) continue;
        n++;
        if (isMade(patch, u, v)) made++;
        for (let c = 0; c < 3; c++) {
          sums[c] += truth.data[3 * (v * truth.width + u) + c];
          sums[c + 3] += after.data[3 * (v * truth.width + u) + c];
        }
      }
      // What was made is judged where the ground is so even that it has to be as the truth; on others only what was left as it is.
      if (n < size / 2 || (made > 0.2 * n && !even(points, truth, from, size, d))) continue;
      const [r, g, b, r2, g2, b2] = sums.map((s) => s / n);
      const left = ciede2000(labOf(r, g, b), labOf(r2, g2, b2));
      if (left > worst.left) worst = { left, at: d };
    }
  return worst;
}

/** Whether a pixel was laid on by a patch. */
function isMade({ x, y, width, height, channels, data }: Patch, u: number, v: number): boolean {
  const [p, q] = [u - x, v - y];
  return p >= 0 && q >= 0 && p < width && q < height && data[(q * width + p) * channels + channels - 1] > 0;
}

/** CIEDE2000 up to which the ground on both sides of a place is one. */
const EVEN = 0.7;

/** Whether the truth looks alike, over a run, to both sides of a place. */
function even(points: readonly Point[], truth: Raster, from: number, size: number, d: number): boolean {
  const means = [-8, -4, 0, 4, 8].map((beside) => {
    const sum = [0, 0, 0];
    let n = 0;
    for (let i = from; i < from + size; i++) {
      const u = Math.floor(points[i][0]);
      const v = Math.floor(points[i][1] + d + beside);
      if (u < 0 || v < 0 || u >= truth.width || v >= truth.height) continue;
      n++;
      for (let c = 0; c < 3; c++) sum[c] += truth.data[3 * (v * truth.width + u) + c];
    }
    return labOf(sum[0] / n, sum[1] / n, sum[2] / n);
  });
  return means.every((m) => ciede2000(m, means[2]) < EVEN);
}
