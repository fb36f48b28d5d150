import { beneathOf } from '../../../chain/chain.ts';
import { createRaster, type Raster } from '../../../raster/raster.ts';
import { dated, renderRepair } from '../../registry.ts';
import { fillOfAdded } from '../added.ts';
import { finestLevel, halveLevel, type Level } from './levels.ts';
import { mirrored, shownAt, windowAlone } from './mirrored.ts';

/** Grey of a place, from which a picture is drawn. */
type Drawn = (x: number, y: number) => number;
function drawn(width: number, height: number, grey: Drawn): Raster {
  const out = createRaster(width, height, 3, 8);
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o += 3) out.data.fill(Math.round(grey(x, y)), o, o + 3);
  return out;
}

/** A level of 22 × 14 px of which the right third is covered. */
function level(): Level {
  const picture = drawn(22, 14, (x, y) => (Math.imul(17 * x + 31 * y + 5, 2654435761) >>> 24) % 200);
  const known = Uint8Array.from({ length: 22 * 14 }, (_, i) => (i % 22 < 14 ? 1 : 0));
  const cover = known.map((v) => 1 - v);
  return finestLevel(picture, cover, known, known);
}

test('beneath a window stands its copy with left and right changed over, known where it is and never covered', () => {
  const one = level();
  const both = mirrored(one);
  const beneath = both.beneath!;
  expect(beneath % 256).toBe(0);
  expect(both.height).toBe(beneath + 14);
  expect(both.covered).toBe(one.covered);
  for (let y = 0; y < 14; y++)
    for (let x = 0; x < 22; x++) {
      const [u, v] = shownAt(22, beneath, x, y + beneath);
      expect([u, v]).toEqual([21 - x, y]);
      const [own, copy] = [v * 22 + u, (y + beneath) * 22 + x];
      expect(both.pixels[4 * copy]).toBe(one.pixels[4 * own]);
      expect(both.known[copy]).toBe(one.known[own]);
      expect(both.allowed[copy]).toBe(one.allowed[own]);
      expect(both.cover[copy]).toBe(0);
    }
  expect(both.known.subarray(14 * 22, beneath * 22).indexOf(1)).toBe(-1);
});

test('the window alone is what it was, at every size', () => {
  const [one, both] = [level(), mirrored(level())];
  expect(windowAlone(both)).toEqual(one);
  const [half, halves] = [halveLevel(one), halveLevel(both)];
  expect(halves.beneath).toBe(both.beneath! / 2);
  expect(windowAlone(halves)).toEqual(half);
});

const [WIDTH, HEIGHT, END] = [240, 160, 190];
/** Adds what is right of END to a picture; the grey of what is added. */
function added(grey: Drawn) {
  const picture = drawn(WIDTH, HEIGHT, (x, y) => (x < END ? grey(x, y) : 255));
  const spec = dated(fillOfAdded([{ x: END, y: 0, width: WIDTH - END, height: HEIGHT }]));
  const { patch } = renderRepair(beneathOf(picture, [], spec), spec);
  return (x: number, y: number) => patch.data[((y - patch.y) * patch.width + x - patch.x) * patch.channels];
}
const grain = (x: number, y: number) => (Math.imul(x + 977 * y, 2654435761) >>> 24) / 64;

test('level streaks of which no other place shows the like go on past the edge without a step', () => {
  const random = (n: number) => (Math.imul(n + 3, 2654435761) >>> 8) / 2 ** 24;
  // Bands of 12 px, each of two waves of its own; beneath is another ground.
  const streaks: Drawn = (x, y) => {
    const band = Math.floor(y / 12);
    const wave = (k: number) => Math.sin(x / (30 + 40 * random(4 * band + k)) + 7 * random(4 * band + k + 2));
    return y < 125 ? 130 + 30 * wave(0) + 30 * wave(1) : 50;
  };
  const picture: Drawn = (x, y) => streaks(x, y) + grain(x, y);
  const grey = added(picture);
  let [step, usual] = [0, 0];
  for (let y = 2; y < 123; y++) {
    step += Math.abs(grey(END + 1, y) - picture(END - 2, y));
    usual += Math.abs(picture(END - 5, y) - picture(END - 2, y));
  }
  expect(step / usual).toBeLessThan(0.95);
});

test('a leaning bar is not bent back at the edge', () => {
  const bar: Drawn = (x, y) => (x > 160 && Math.abs(y - 140 + 0.5 * x) < 5 ? 100 : 0);
  const grey = added((x, y) => 110 + bar(x, y) + grain(x, y));
  // Where it would come down again: as far below the edge's height as it was before it.
  let [bent, all] = [0, 0];
  for (let x = END + 8; x < END + 26; x++, all++) if (grey(x, Math.round(140 - 0.5 * (2 * END - 1 - x))) > 170) bent++;
  expect(bent / all).toBeLessThan(0.2);
});
