import type { Plane } from '../raster/luma.ts';
import { rayOf, seenAt, turnOf, type Camera } from './camera.ts';
import type { Pair } from './features.ts';
import { settledPairs } from './sharpen.ts';

const [width, height] = [360, 260];
const camera = (yaw: number, roll: number): Camera => ({
  width,
  height,
  focal: 500,
  bend: -0.02,
  turn: turnOf([0, yaw, roll]),
});
const cameras = [camera(-0.12, 0.03), camera(0.12, -0.02)];

/** A world with much to be seen, by direction. */
const world = ([x, y, z]: readonly number[]) =>
  120 +
  40 * Math.sin((70 * x) / z + (20 * y) / z) +
  30 * Math.sin((55 * y) / z - (31 * x) / z) +
  20 * Math.cos((120 * x) / z);
const taken = (of: Camera, gain: number, tone: (ray: readonly number[]) => number = world): Plane => ({
  width,
  height,
  data: Float32Array.from(
    { length: width * height },
    (_, i) => gain * tone(rayOf(of, i % width, Math.floor(i / width))),
  ),
});

/** Places that both see, the second one off by so much. */
function pairOff(dx: number, dy: number): { pair: Pair; real: Array<[number, number]> } {
  const pair: Pair = { from: 0, to: 1, matches: [], homography: [] };
  const real: Array<[number, number]> = [];
  const at = [0, 0];
  for (let y = 30; y < height - 30; y += 22)
    for (let x = 150; x < width - 30; x += 22) {
      if (!seenAt(cameras[1], rayOf(cameras[0], x, y), at)) continue;
      if (at[0] < 25 || at[1] < 25 || at[0] > width - 26 || at[1] > height - 26) continue;
      real.push([at[0], at[1]]);
      pair.matches.push({ a: [x, y], b: [at[0] + dx, at[1] + dy] });
    }
  return { pair, real };
}

test('matches that are off by two px settle to a twentieth of one, in a darker frame as well', () => {
  const { pair, real } = pairOff(1.6, -1.2);
  const [settled] = settledPairs([taken(cameras[0], 1), taken(cameras[1], 0.6)], cameras, [pair]);
  expect(settled.matches.length).toBeGreaterThan(0.8 * real.length);
  for (const match of settled.matches) {
    const n = pair.matches.findIndex((m) => m.a === match.a);
    expect(Math.hypot(match.b[0] - real[n][0], match.b[1] - real[n][1])).toBeLessThan(0.05);
  }
});

test('where there is nothing to be seen a pair stays as it was', () => {
  const { pair } = pairOff(1, 1);
  const even = cameras.map((c) => taken(c, 1, () => 128));
  expect(settledPairs(even, cameras, [pair])).toEqual([pair]);
});

test('pairs of frames that were left out are left out', () => {
  const { pair } = pairOff(0, 0);
  expect(settledPairs([taken(cameras[0], 1), taken(cameras[1], 1)], [cameras[0], null], [pair])).toEqual([]);
});
