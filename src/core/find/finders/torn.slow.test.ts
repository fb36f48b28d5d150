import { rasterise } from '../../mask/shapes.ts';
import { createRaster, type Raster } from '../../raster/raster.ts';
import { tears } from './stains-and-tears.ts';
import { lumaPlane } from '../../raster/luma.ts';

const [WIDTH, HEIGHT] = [1500, 1100];
/** px that a place lies beyond the torn edge, which zigzags across the lower right corner. */
const beyond = (x: number, y: number) => (x + y - 2150 + 14 * Math.sin(x / 9)) / Math.SQRT2;

/** A print with a paper margin, its corner torn off with a rim of bare paper 11 px wide. */
function scan(): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  let seed = 3;
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      const grain = ((seed >> 12) % 100) / 25 - 2;
      const margin = x < 90 || y < 90 || x >= WIDTH - 90 || y >= HEIGHT - 90;
      const v = 95 + 35 * Math.sin(x / 40) * Math.sin(y / 31);
      const face = margin ? [240, 225, 199] : [v, 0.95 * v, 0.85 * v];
      const d = beyond(x, y);
      const colour = d > 11 ? [63, 67, 71] : d > 0 ? [254, 253, 247] : face;
      for (let c = 0; c < 3; c++) out.data[3 * i + c] = Math.min(255, colour[c] + grain);
    }
  return out;
}

test('the white rim of a tear belongs to it, to the pixel, and the print beside it does not', () => {
  const picture = scan();
  const [tear, ...more] = tears.find({ picture, luma: lumaPlane(picture) }).filter((f) => f.score >= 0.5);
  expect(more).toEqual([]);
  const cover = rasterise(tear.shapes, { x: 0, y: 0, width: WIDTH, height: HEIGHT }).data;
  let [missed, rim, stray] = [0, 0, 0];
  for (let y = 0, i = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, i++) {
      const d = beyond(x, y);
      if (d > 1 && d < 11) {
        rim++;
        if (!cover[i]) missed++;
      }
      if (d < -4 && cover[i]) stray++;
    }
  expect(missed / rim).toBeLessThan(0.02);
  expect(stray).toBeLessThan(30);
});
