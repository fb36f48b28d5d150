import { createRaster, type Raster } from '../../raster/raster.ts';
import { fillThin } from './thin.ts';

const [W, H] = [2000, 60];

/** A picture of waves, two blocks wide, with a thin bar in each, and painted over there. */
function scene() {
  const picture = createRaster(W, H, 3, 8);
  const cover = new Uint8Array(W * H);
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++) {
      const v = 120 + 50 * Math.sin(x * 0.11 + y * 0.07);
      picture.data.set([v, v * 0.9, v * 0.7], i * 3);
      if (y >= 28 && y < 32 && ((x > 100 && x < 300) || (x > 1250 && x < 1500))) cover[i] = 1;
    }
  const truth = picture.data.slice();
  cover.forEach((v, i) => v && picture.data.fill(255, i * 3, i * 3 + 3));
  return { picture, cover, truth };
}
const copyOf = (picture: Raster): Raster => ({ ...picture, data: picture.data.slice() });
const bytes = (raster: Raster, from: number, to: number): number[] => {
  const out: number[] = [];
  for (let y = 28; y < 32; y++) for (let x = from; x < to; x++) out.push(raster.data[(y * W + x) * 3]);
  return out;
};

describe('filling thin covers block by block', () => {
  const { picture, cover, truth } = scene();
  const whole = copyOf(picture);
  fillThin(picture, cover, whole, { grain: true });

  test('waves come back, and nothing else changes', () => {
    let [off, changed] = [0, 0];
    const covered = cover.reduce((a, b) => a + b, 0);
    cover.forEach((v, i) => {
      for (let c = 0; c < 3; c++) {
        if (v) off += (whole.data[i * 3 + c] - truth[i * 3 + c]) ** 2;
        else if (whole.data[i * 3 + c] !== truth[i * 3 + c]) changed++;
      }
    });
    expect(changed).toBe(0);
    expect(Math.sqrt(off / covered / 3)).toBeLessThan(2);
  });

  test('only blocks that hold what is wanted are done, and those as ever', () => {
    const wanted = cover.map((v, i) => (v && i % W < 960 ? 1 : 0));
    const out = copyOf(picture);
    fillThin(picture, cover, out, { grain: true, wanted });
    expect(bytes(out, 101, 300)).toEqual(bytes(whole, 101, 300));
    expect(bytes(out, 1251, 1500).every((v) => v === 255)).toBe(true);
  });

  test('shares of several threads add up to the whole, with progress to the end', () => {
    const out = copyOf(picture);
    for (let index = 0; index < 2; index++) {
      const told: number[] = [];
      fillThin(picture, cover, out, { grain: true, share: { index, of: 2 } }, (f) => told.push(f));
      expect(told.at(-1)).toBe(1);
    }
    expect(Buffer.from(out.data.buffer).equals(Buffer.from(whole.data.buffer))).toBe(true);
  });
});
