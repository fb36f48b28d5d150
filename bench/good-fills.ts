// Fills of chance places on open photographs. One person looked once at all of them, at 85 %, beside the photograph (`npm run bench:check -- --sheet
// FILE`: the photograph above, its fill below, ticks at the corners of the cover), before it was known what checks find in them: those in `GOOD`
// did not show. They are controls of bench/check.ts.
import sharp, { type OverlayOptions } from 'sharp';
import { boundsOf } from '../src/core/mask/mask.ts';
import { crop, type Box, type Raster } from '../src/core/raster/raster.ts';
import { fillRegion } from '../src/core/repair/fill/region.ts';
import { DEFAULT_FILL } from '../src/core/repair/fill/settings.ts';
import { coverOf, blob, randomiser, spoiled } from './planted.ts';
import { controlCover } from './check-planting.ts';

/** Numbers of the fills that were judged to be good. */
// prettier-ignore
const GOOD: readonly number[] = [0, 2, 3, 4, 6, 7, 8, 10, 11, 12, 14, 15, 17, 18, 19, 20, 21, 24, 25, 26, 27, 28, 29, 31, 33, 35, 36, 37, 38, 39];
const COUNT = 40;
const SIDE = 340;

interface FilledPlace {
  truth: Raster;
  before: Raster;
  after: Raster;
  cover: Uint8Array;
  box: Box;
}

/** The fill of a chance place of one of the photographs. */
function filledPlace(photographs: readonly Raster[], n: number): FilledPlace {
  const random = randomiser(4000 + n);
  const whole = photographs[n % photographs.length];
  const [width, height] = [Math.min(SIDE, whole.width), Math.min(SIDE, whole.height)];
  const at = { x: Math.floor(random() * (whole.width - width)), y: Math.floor(random() * (whole.height - height)) };
  const truth = crop(whole, { ...at, width, height });
  const cover =
    n % 4 === 3
      ? controlCover(truth, 3, random)
      : coverOf(blob(110 + 120 * random(), 110 + 120 * random(), 8 + 26 * random()), width, height);
  const before = spoiled(truth, cover);
  const { picture: after } = fillRegion({ picture: before, cover }, DEFAULT_FILL);
  return { truth, before, after, cover, box: boundsOf({ x: 0, y: 0, width, height, data: cover }) };
}

/** The fills that were judged to be good. */
export const goodFills = (photographs: readonly Raster[]): FilledPlace[] =>
  GOOD.map((n) => filledPlace(photographs, n));

/** All fills in one picture. */
export async function sheetOfFills(photographs: readonly Raster[], file: string): Promise<void> {
  const tile = 180;
  const columns = 10;
  const views: OverlayOptions[] = [];
  for (let n = 0; n < COUNT; n++) {
    const { truth, after, box } = filledPlace(photographs, n);
    const middle = (from: number, size: number, all: number) =>
      Math.max(0, Math.min(all - tile, Math.round(from + size / 2 - tile / 2)));
    const [left, top] = [middle(box.x, box.width, truth.width), middle(box.y, box.height, truth.height)];
    for (const [k, { data, width, height, channels }] of [truth, after].entries()) {
      const cut = sharp(data as Uint8Array, { raw: { width, height, channels } }).extract({
        left,
        top,
        width: tile,
        height: tile,
      });
      const [x, y] = [
        (n % columns) * (tile + 4),
        (Math.floor(n / columns) * 2 + k) * (tile + 4) + Math.floor(n / columns) * 8,
      ];
      views.push({ input: await cut.png().toBuffer(), left: x, top: y });
      for (const [u, v] of [
        [box.x, box.y],
        [box.x + box.width, box.y + box.height],
      ])
        views.push({
          input: { create: { width: 3, height: 3, channels: 3, background: '#f0f' } },
          left: Math.max(x, Math.min(x + tile - 3, x + u - left - 1)),
          top: Math.max(y, Math.min(y + tile - 3, y + v - top - 1)),
        });
    }
  }
  const rows = Math.ceil(COUNT / columns);
  const size = { width: columns * (tile + 4), height: rows * (2 * tile + 16) };
  await sharp({ create: { ...size, channels: 3, background: '#000' } })
    .composite(views)
    .png()
    .toFile(file);
}
