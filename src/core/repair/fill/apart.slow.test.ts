import { beneathOf } from '../../chain/chain.ts';
import { createRaster } from '../../raster/raster.ts';
import { dated, renderRepair } from '../registry.ts';
import type { FillSpec } from '../spec.ts';
import { fillOfAdded } from './added.ts';

const [WIDTH, HEIGHT, STRIP] = [420, 220, 60];
/** A grained ground whose light falls off to both sides, more to the right. */
const truth = createRaster(WIDTH, HEIGHT, 3, 8);
let seed = 3;
for (let y = 0, o = 0; y < HEIGHT; y++)
  for (let x = 0; x < WIDTH; x++, o += 3) {
    seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
    const light = 2 ** (-0.9 * ((x - 180) / 240) ** 2 - 0.4 * ((y - 110) / 240) ** 2);
    for (let c = 0; c < 3; c++)
      truth.data[o + c] = Math.round(170 * light * (1 + 0.03 * c) + ((seed >> 12) % 100) / 20);
  }
const isStrip = (x: number) => x < STRIP || x >= WIDTH - STRIP;
const source = { ...truth, data: truth.data.slice() };
for (let i = 0; i < WIDTH * HEIGHT; i++) if (isStrip(i % WIDTH)) source.data.fill(0, 3 * i, 3 * i + 3);

const strips = [0, WIDTH - STRIP].map((x) => ({ x, y: 0, width: STRIP, height: HEIGHT }));
const spec = (more: Partial<FillSpec>) => dated({ ...fillOfAdded(strips), light: undefined, ...more });
/** Mean difference of what is filled from the truth, levels, on one side. */
function off({ patch }: ReturnType<typeof renderRepair>, x0: number): number {
  let [sum, n] = [0, 0];
  for (let y = 0; y < HEIGHT; y++)
    for (let x = x0; x < x0 + STRIP; x++, n++)
      sum += Math.abs(patch.data[4 * ((y - patch.y) * patch.width + x - patch.x)] - truth.data[3 * (y * WIDTH + x)]);
  return sum / n;
}

test('both sides of a picture are filled in the light that falls there, in one patch that holds nothing between them', () => {
  const done = renderRepair(beneathOf(source, [], spec({})), spec({ light: true }));
  expect(done.reason).toMatch(/light falls off by/);
  expect(done.patch).toMatchObject({ x: 0, y: 0, width: WIDTH, height: HEIGHT });
  // Its grain differs by 1.7 levels from itself elsewhere.
  expect(off(done, 0)).toBeLessThan(3.5);
  expect(off(done, WIDTH - STRIP)).toBeLessThan(3.5);
  for (let i = 0; i < WIDTH * HEIGHT; i += 7) expect(done.patch.data[4 * i + 3]).toBe(isStrip(i % WIDTH) ? 255 : 0);
});

test('without it the right side is too light; nothing that is made depends on what stood there', () => {
  const plain = renderRepair(beneathOf(source, [], spec({})), spec({}));
  const lit = renderRepair(beneathOf(source, [], spec({})), spec({ light: true }));
  expect(off(plain, WIDTH - STRIP)).toBeGreaterThan(1.5 * off(lit, WIDTH - STRIP));
  const other = { ...source, data: source.data.map((v, k) => (isStrip(Math.floor(k / 3) % WIDTH) ? 200 : v)) };
  expect(renderRepair(beneathOf(other, [], spec({})), spec({ light: true })).patch.data).toEqual(lit.patch.data);
});
