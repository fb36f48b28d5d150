import { createRaster, type Raster } from '../../raster/raster.ts';
import { transposed, withSeams } from './seams.ts';

const [WIDTH, HEIGHT] = [120, 60];
/** A plain ground that falls off, with a slanted band of strong stripes. */
function scene(): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, o = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, o += 3) {
      const at = x - 70 - 0.3 * y;
      const v = at > 0 && at < 24 ? (Math.floor(at / 3) % 2 ? 220 : 30) : 120 + 0.2 * x;
      for (let c = 0; c < 3; c++) out.data[o + c] = Math.round(v) + c;
    }
  return out;
}
const rowOf = ({ width, channels, data }: Raster, y: number, from: number, to: number) =>
  Array.from(data.slice((y * width + from) * channels, (y * width + to) * channels));

test('what lies outside the parts keeps every bit, and every row gets as many px as asked for', () => {
  const picture = scene();
  const out = withSeams(picture, [
    { from: 0, to: 40, add: 30 },
    { from: 100, to: WIDTH, add: 7 },
  ]);
  expect([out.width, out.height]).toEqual([WIDTH + 37, HEIGHT]);
  for (let y = 0; y < HEIGHT; y++) expect(rowOf(out, y, 70, 130)).toEqual(rowOf(picture, y, 40, 100));
});

test('seams go through what is plain: stripes beside it stay as they are', () => {
  const picture = scene();
  const out = withSeams(picture, [{ from: 0, to: WIDTH, add: 20 }]);
  const steps = ({ width, data }: Raster, y: number) => {
    let n = 0;
    for (let x = 1; x < width; x++) if (Math.abs(data[3 * (y * width + x)] - data[3 * (y * width + x - 1)]) > 60) n++;
    return n;
  };
  /** How wide the stripes are altogether. */
  const dark = ({ width, data }: Raster, y: number) => {
    let n = 0;
    for (let x = 0; x < width; x++) if (data[3 * (y * width + x)] < 60) n++;
    return n;
  };
  for (let y = 0; y < HEIGHT; y++) {
    expect(steps(out, y)).toBe(steps(picture, y));
    expect(dark(out, y)).toBe(dark(picture, y));
  }
});

test('more than a part has is inserted in rounds; nothing, and less than nothing, is told', () => {
  expect(withSeams(scene(), [{ from: 0, to: 20, add: 50 }]).width).toBe(WIDTH + 50);
  expect(withSeams(scene(), [{ from: 0, to: 20, add: 0 }])).toEqual(scene());
  expect(() => withSeams(scene(), [{ from: 0, to: 20, add: -5 }])).toThrow('Seams can only be inserted');
  expect(() => withSeams(scene(), [{ from: 8, to: 8, add: 5 }])).toThrow('no background on that side');
});

test('a high picture is looked at smaller, and still grows by as many px as asked for in every row', () => {
  const high = createRaster(61, 1000, 1, 8);
  for (let i = 0; i < high.data.length; i++) high.data[i] = (i * 7919) % 251;
  const out = withSeams(high, [{ from: 0, to: 40, add: 7 }]);
  expect([out.width, out.height]).toEqual([68, 1000]);
  for (let y = 0; y < 1000; y += 37) expect(rowOf(out, y, 47, 68)).toEqual(rowOf(high, y, 40, 61));
  expect(transposed(transposed(scene()))).toEqual(scene());
});
