import { blur } from '../raster/planes.ts';
import { albumOf, alikeIn, mirroredOf, spotsIn, type Spot } from './spots.ts';

const [WIDTH, HEIGHT] = [260, 120];
/** Soft blobs by chance in the left part; the right part is left to the test. */
function ground(): Float32Array {
  const out = new Float32Array(WIDTH * HEIGHT).fill(120);
  let seed = 11;
  const next = () => (seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff) / 0x7fffffff;
  for (let n = 0; n < 90; n++) {
    const [x, y, by] = [20 + 90 * next(), 20 + 80 * next(), 90 * (next() - 0.5)];
    for (let v = Math.floor(y) - 9; v <= y + 9; v++)
      for (let u = Math.floor(x) - 9; u <= x + 9; u++)
        out[v * WIDTH + u] += by * Math.exp(-((u - x) ** 2 + (v - y) ** 2) / 10);
  }
  return out;
}
function spotsOf(luma: Float32Array): Spot[] {
  const soft = blur(luma, WIDTH, HEIGHT, 1.2);
  const coarse = blur(luma, WIDTH, HEIGHT, 4);
  return spotsIn({ width: WIDTH, height: HEIGHT, soft, between: soft.map((v, i) => v - coarse[i]) }, () => true, 500);
}
/** The left part again at the right, at another place of each row, and with its contrast changed. */
function copied(to: (x: number) => number, contrast: number): Float32Array {
  const luma = ground();
  const out = luma.slice();
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < 130; x++) out[y * WIDTH + to(x)] = 120 + contrast * (luma[y * WIDTH + x] - 120);
  return out;
}
const inner = (spots: readonly Spot[]) => spots.filter((s) => s.x > 26 && s.x < 104);

test('a copy, with its contrast changed too, is most alike to what it was taken from', () => {
  for (const contrast of [1, 0.75, 1.3]) {
    const spots = spotsOf(copied((x) => x + 130, contrast));
    const album = albumOf(spots);
    const own = inner(spots);
    expect(own.length).toBeGreaterThan(15);
    const found = own.filter((s) =>
      alikeIn(album, s, s.description)
        .slice(0, 2)
        .some((o) => Math.abs(o.x - s.x - 130) < 2 && Math.abs(o.y - s.y) < 2),
    );
    expect(found.length).toBeGreaterThan(0.9 * own.length);
  }
});

test('a mirrored copy is found by the mirrored description, and by that alone', () => {
  const spots = spotsOf(copied((x) => 259 - x, 1));
  const album = albumOf(spots);
  const own = inner(spots);
  const finds = (s: Spot, described: Spot['description']) =>
    alikeIn(album, s, described).some((o) => Math.abs(o.x + s.x - 259) < 2 && Math.abs(o.y - s.y) < 2);
  expect(own.filter((s) => finds(s, mirroredOf(s.description))).length).toBeGreaterThan(0.9 * own.length);
  expect(own.filter((s) => finds(s, s.description)).length).toBeLessThan(0.3 * own.length);
  const twice = mirroredOf(mirroredOf(own[0].description));
  expect(twice.values).toEqual(own[0].description.values);
  expect(twice.waves).toEqual(own[0].description.waves);
});

test('what is lighter is not like what is darker, nor a bold spot like a faint one', () => {
  for (const contrast of [-1, 0.3]) {
    const spots = spotsOf(copied((x) => x + 130, contrast));
    const album = albumOf(spots);
    for (const s of inner(spots))
      for (const o of alikeIn(album, s, s.description)) {
        expect(o.lighter).toBe(s.lighter);
        expect(Math.max(o.stands / s.stands, s.stands / o.stands)).toBeLessThan(1.51);
      }
  }
});
