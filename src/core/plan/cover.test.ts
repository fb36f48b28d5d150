import { boundsOf, coveredPixels, depthOf } from '../mask/mask.ts';
import { rasterise, type Shape } from '../mask/shapes.ts';
import { measureFault } from './cover.ts';

const box = (x: number, y: number, width: number, height: number): Shape => ({
  op: 'add',
  kind: 'box',
  x,
  y,
  width,
  height,
});
const AREA = { x: 0, y: 0, width: 300, height: 200 };

test.each([
  ['one box', [box(10, 20, 60, 31)]],
  ['a frame around the middle', [box(0, 0, 300, 20), box(0, 180, 300, 20), box(0, 20, 30, 160), box(270, 20, 30, 160)]],
  ['boxes that overlap, and lie beside the area', [box(-20, -20, 90, 70), box(50, 30, 80, 40), box(280, 190, 90, 90)]],
])('boxes are measured as their mask would be: %s', (_, shapes) => {
  const facts = measureFault(shapes, AREA);
  const mask = rasterise(shapes, AREA);
  expect(facts.area).toBe(coveredPixels(mask));
  expect(facts.bounds).toEqual(boundsOf(mask));
  expect(Math.abs(facts.width - (2 * depthOf(mask) - 1))).toBeLessThanOrEqual(2);
  const [x, y] = facts.anchor;
  expect(mask.data[Math.floor(y) * AREA.width + Math.floor(x)]).toBeGreaterThan(0);
});

test('a large outline is measured in a smaller picture, to within two of its px', () => {
  const points = Array.from({ length: 60 }, (_, k): [number, number] => [
    3000 + 2600 * Math.cos((k * Math.PI) / 30),
    2000 + 1500 * Math.sin((k * Math.PI) / 30),
  ]);
  const { area, width, bounds } = measureFault([{ op: 'add', kind: 'outline', points }], { width: 6000, height: 4000 });
  expect(area / (Math.PI * 2600 * 1500)).toBeCloseTo(1, 2);
  expect(Math.abs(width - 3000)).toBeLessThan(25);
  expect(Math.abs(bounds.width - 5200)).toBeLessThan(10);
});
