import { beneathOf } from '../chain/chain.ts';
import { findingsOf } from '../check/check.ts';
import type { Finding } from '../check/finding.ts';
import { showing } from '../check/order.ts';
import { signsOfRepair } from '../check/repair.ts';
import { createRaster, type Raster } from '../raster/raster.ts';
import { fillOfAdded } from '../repair/fill/added.ts';
import { LAID_OUT } from '../repair/fill/settings.ts';
import { dated, renderRepair } from '../repair/registry.ts';
import { bestRender } from './best-render.ts';

const [WIDTH, HEIGHT, END] = [240, 160, 185];

function drawn(grey: (x: number, y: number) => number): Raster {
  const out = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, o = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, o += 3) out.data.fill(x < END ? Math.round(grey(x, y)) : 0, o, o + 3);
  return out;
}
const grain = (x: number, y: number) => (Math.imul(x + 977 * y, 2654435761) >>> 24) / 64;
const spec = dated(fillOfAdded([{ x: END, y: 0, width: WIDTH - END, height: HEIGHT }]));

test('a fill of which nothing would be seen is not tried otherwise', () => {
  const beneath = beneathOf(
    drawn((x, y) => 120 + grain(x, y)),
    [],
    spec,
  );
  const [found, told]: [Finding[], number[]] = [[], []];
  const { patch } = bestRender(3, WIDTH, found)(beneath, spec, (done) => told.push(done));
  expect(showing(found)).toBeUndefined();
  expect(Math.max(...told)).toBeCloseTo(1 / 3, 5);
  expect(patch).toEqual(renderRepair(beneath, spec).patch);
});

test('while something would be seen it is tried otherwise, as often as it may, and the best is taken', () => {
  // Bars of many directions, which end at the edge wherever they are.
  const bars = (x: number, y: number) => {
    for (let k = 0; k < 8; k++)
      if (Math.abs(y - 20 * (k + 0.5) - 0.8 * Math.sin(5 * (k + 1)) * (x - END)) < 3 + (k % 3)) return k % 2 ? 30 : 225;
    return y < 80 ? 120 : 90;
  };
  const beneath = beneathOf(
    drawn((x, y) => bars(x, y) + grain(x, y)),
    [],
    spec,
  );
  const tries = LAID_OUT.map((style) => {
    const own = { ...spec, style };
    const { patch } = renderRepair(beneath, own);
    return { patch, found: findingsOf(signsOfRepair(beneath, own, patch), WIDTH) };
  });
  expect(tries.map((t) => Boolean(showing(t.found)))).toEqual([true, true, false]);
  for (const [most, best] of [
    [1, 0],
    [3, 2],
  ]) {
    const found: Finding[] = [];
    const { patch } = bestRender(most, WIDTH, found)(beneath, spec);
    expect(patch.data).toEqual(tries[best].patch.data);
    expect(found).toEqual(tries[best].found);
  }
});
