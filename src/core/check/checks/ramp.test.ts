import { createRaster, type Raster } from '../../raster/raster.ts';
import { placeOf } from '../place.ts';
import { ramp } from './ramp.ts';

const SIZE = 240;
/** Half the width of a strand across the picture, px, and its slope. */
const HALF = 6;
const SLOPE = 0.02;
const offOf = (x: number, y: number) => y - 120 - SLOPE * (x - 120);

/** A light ground above a dark one, that meet along a line of such a slope, within so many px; with grain, and with other edges beside it. */
function picture(within: number, beside: number): Raster {
  const out = createRaster(SIZE, SIZE, 3, 8);
  let seed = 7;
  for (let y = 0, i = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const fade = (d: number, px: number) => Math.min(1, Math.max(0, 0.5 + d / px));
      const light = 170 - 80 * fade(offOf(x, y), within);
      const stripe = 70 * (fade(y - 145, beside) - fade(y - 175, beside) - fade(y - 60, beside) + fade(y - 95, beside));
      out.data.fill(Math.round(light + stripe + ((seed >> 12) % 100) / 25), 3 * i, 3 * i + 3);
    }
  return out;
}
/** What of it is covered: a strand along that line, from margin to margin. */
const what = Uint8Array.from({ length: SIZE * SIZE }, (_, i) => {
  const [x, y] = [i % SIZE, Math.floor(i / SIZE)];
  return x > 20 && x < 220 && Math.abs(offOf(x, y)) < HALF ? 1 : 0;
});
const signs = (after: Raster) => ramp(placeOf({ after }, what, { x: 20, y: 110, width: 200, height: 20 }));

test('an edge that is drawn out over the width of a strand, where others are sharp, is told with its width', () => {
  const told = signs(picture(2 * HALF, 1));
  expect(told.length).toBeGreaterThan(0);
  for (const sign of told) {
    expect(sign.kind).toBe('smear');
    expect(sign.figure).toBeGreaterThan(2 * HALF - 2.5);
    expect(sign.figure).toBeLessThan(2 * HALF + 2.5);
    expect(sign.remedy).toBe('copy-along');
  }
  expect(Math.max(...told.map((s) => s.along))).toBeGreaterThan(120);
});

test('nothing is told of a sharp edge, or of one among edges that are as soft', () => {
  expect(signs(picture(1, 1))).toEqual([]);
  expect(signs(picture(2 * HALF, 2 * HALF))).toEqual([]);
});
