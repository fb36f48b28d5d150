import type { Plane } from '../raster/luma.ts';
import { rayOf, reachOf, turnOf, type Camera } from './camera.ts';
import { fromLight, lightOf, neededAt, toLight } from './light.ts';

const [width, height] = [320, 240];
const camera = (yaw: number): Camera => ({ width, height, focal: 420, bend: 0, turn: turnOf([0, yaw, 0]) });
const cameras = [camera(-0.3), camera(0), camera(0.3)];

/** Light of a world that varies slowly, by direction. */
const world = ([x, y, z]: readonly number[]) => 0.25 + 0.1 * Math.sin((6 * x) / z) + 0.06 * Math.cos((9 * y) / z);

/** What a camera takes of it, so many stops lighter, with a fall-off to the corners. */
function taken(of: Camera, stops: number, fall: number, spoil = 0): Plane {
  const data = Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    const r = Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) / reachOf(of);
    const light = (i % 97 < spoil ? 2 : 1) * world(rayOf(of, x, y)) * 2 ** (stops - fall * r * r);
    return 255 * fromLight(Math.min(1, light));
  });
  return { width, height, data };
}

test('sRGB: a value of 0.5 is light of 0.2140, and back (IEC 61966-2-1)', () => {
  expect(toLight(0.5)).toBeCloseTo(0.21404, 5);
  expect(toLight(0.04)).toBeCloseTo(0.04 / 12.92, 9);
  for (const v of [0, 0.02, 0.3, 1]) expect(fromLight(toLight(v))).toBeCloseTo(v, 9);
});

test('exposures and the fall-off to the corners are measured', () => {
  const light = lightOf(
    [taken(cameras[0], 0.4, 0.9), taken(cameras[1], 0, 0.9), taken(cameras[2], -0.25, 0.9)],
    cameras,
  );
  const mean = (0.4 - 0.25) / 3;
  [0.4, 0, -0.25].forEach((stops, n) => expect(light.exposures[n]).toBeCloseTo(stops - mean, 1));
  expect(neededAt(light, 1, 1) - neededAt(light, 1, 0)).toBeCloseTo(0.9, 1);
});

test('what moved or shines in one of the frames hardly changes that', () => {
  const light = lightOf([taken(cameras[0], 0.3, 0, 8), taken(cameras[1], 0, 0), taken(cameras[2], 0, 0)], cameras);
  expect(light.exposures[0] - light.exposures[1]).toBeGreaterThan(0.25);
  expect(light.exposures[0] - light.exposures[1]).toBeLessThan(0.42);
});

test('frames that are alike need nothing, and one that was left out has no exposure', () => {
  const light = lightOf(
    [taken(cameras[0], 0, 0), taken(cameras[1], 0, 0), taken(cameras[2], 0, 0)],
    [cameras[0], cameras[1], null],
  );
  for (const stops of light.exposures) expect(stops).toBeCloseTo(0, 2);
  for (const square of [0, 0.5, 1]) expect(Math.abs(neededAt(light, 0, square))).toBeLessThan(0.03);
});
