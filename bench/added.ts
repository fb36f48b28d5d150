// What is added to a picture by filling, measured against the truth: for benches.
import { findingsOf, signsOf } from '../src/core/check/check.ts';
import { placeOf } from '../src/core/check/place.ts';
import { grainInside } from '../src/core/check/similarity.ts';
import { beneathOf } from '../src/core/chain/chain.ts';
import { compositeOver } from '../src/core/raster/patch.ts';
import { blur, lumaOf, toFloat4 } from '../src/core/raster/planes.ts';
import type { Box, Raster } from '../src/core/raster/raster.ts';
import { fillOfAdded } from '../src/core/repair/fill/added.ts';
import { dated, renderRepair } from '../src/core/repair/registry.ts';
import { ciede2000, labOf, type Lab } from '../src/core/tone/lab.ts';

/** Lab after a blur of 12 px. */
function tonesOf(picture: Raster): Lab[] {
  const image = toFloat4(picture);
  const n = picture.width * picture.height;
  const planes = [0, 1, 2].map((c) =>
    blur(
      Float32Array.from({ length: n }, (_, i) => image[4 * i + c]),
      picture.width,
      picture.height,
      12,
    ),
  );
  return Array.from({ length: n }, (_, i) => labOf(planes[0][i], planes[1][i], planes[2][i]));
}

/** How well what was cropped from a picture is added again. */
export interface Added {
  done: Raster;
  reason: string;
  /** CIEDE2000 after a blur of 12 px, on average and at most */
  mean: number;
  most: number;
  /** as a share of the truth's */
  grain: number;
  /** what Check would be seen of, by kind */
  kinds: string[];
  seconds: number;
}

/** Fills parts of a picture as if they had never been seen. */
export function addedAgain(truth: Raster, gaps: readonly Box[]): Added {
  const { width, height } = truth;
  const isGap = new Uint8Array(width * height);
  for (const g of gaps)
    for (let y = g.y; y < g.y + g.height; y++) isGap.fill(1, y * width + g.x, y * width + g.x + g.width);
  const source: Raster = { ...truth, data: truth.data.slice() };
  for (let i = 0; i < isGap.length; i++) if (isGap[i]) source.data.fill(255, 3 * i, 3 * i + 3);
  const from = performance.now();
  const done: Raster = { ...source, data: source.data.slice() };
  const spec = dated(fillOfAdded(gaps));
  const { patch, reason } = renderRepair(beneathOf(source, [], spec), spec);
  compositeOver(done, { x: 0, y: 0 }, patch, 1);
  const seconds = (performance.now() - from) / 1e3;
  const [a, b] = [tonesOf(truth), tonesOf(done)];
  let [sum, count, most] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    if (!isGap[i]) continue;
    const d = ciede2000(a[i], b[i]);
    sum += d;
    count++;
    most = Math.max(most, d);
  }
  const luma = (p: Raster) => lumaOf(toFloat4(p), 3);
  const grain = grainInside(luma(done), width, height, isGap) / grainInside(luma(truth), width, height, isGap);
  const kinds = gaps.flatMap((g) => {
    const isHere = (i: number) => i % width >= g.x && i % width < g.x + g.width;
    const what = isGap.map((v, i) => (v && isHere(i) ? 1 : v ? 2 : 0));
    const found = findingsOf(signsOf(placeOf({ after: done }, what, g)), width);
    return found.filter((f) => f.severity >= 0.5).map((f) => f.kind);
  });
  return { done, reason, mean: sum / count, most, grain, kinds, seconds };
}

/** That in one line. */
export const addedInWords = ({ mean, most, grain, kinds, seconds }: Added): string =>
  `tone ${mean.toFixed(1)} on average, ${most.toFixed(1)} at most; grain ${grain.toFixed(2)}; Check sees ${kinds.join(' ') || 'nothing'}; ${seconds.toFixed(1)} s`;
