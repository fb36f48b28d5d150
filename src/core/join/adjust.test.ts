import { adjust } from './adjust.ts';
import { multiplied, rayOf, seenAt, transposed, turnOf, type Camera } from './camera.ts';
import type { Pair } from './features.ts';

const [width, height] = [900, 600];
const taken = (focal: number, bend: number, ...turns: Array<[number, number, number]>): Camera[] =>
  turns.map((turn) => ({ width, height, focal, bend, turn: turnOf(turn) }));

let seed = 3;
const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
const noise = (px: number) => px * (random() + random() + random() + random() - 2) * Math.sqrt(3);

/** Matches between two cameras as a library would find them: off by some px, some of them plainly wrong. */
function pairBetween(cameras: readonly Camera[], from: number, to: number, px: number, wrong = 0): Pair {
  const matches: Pair['matches'] = [];
  const at = [0, 0];
  for (let n = 0; n < 4000 && matches.length < 160; n++) {
    const [x, y] = [random() * (width - 1), random() * (height - 1)];
    if (!seenAt(cameras[to], rayOf(cameras[from], x, y), at)) continue;
    if (at[0] < 0 || at[1] < 0 || at[0] > width - 1 || at[1] > height - 1) continue;
    const off = random() < wrong ? 25 : 0;
    matches.push({ a: [x, y], b: [at[0] + noise(px) + off, at[1] + noise(px)] });
  }
  // What RANSAC comes to: the homography without bending, in px of both frames.
  const straight = (c: Camera) => [c.focal, 0, width / 2 - 0.5, 0, c.focal, height / 2 - 0.5, 0, 0, 1];
  const back = (c: Camera) => [
    1 / c.focal,
    0,
    -(width / 2 - 0.5) / c.focal,
    0,
    1 / c.focal,
    -(height / 2 - 0.5) / c.focal,
    0,
    0,
    1,
  ];
  const turn = multiplied(cameras[to].turn, transposed(cameras[from].turn));
  return { from, to, matches, homography: multiplied(straight(cameras[to]), multiplied(turn, back(cameras[from]))) };
}

/** By how many px places of one frame are seen elsewhere in another than they really are, at the most. */
function worst(real: readonly Camera[], found: ReadonlyArray<Camera | null>, from: number, to: number): number {
  let most = 0;
  const [a, b] = [
    [0, 0],
    [0, 0],
  ];
  for (let y = 0; y < height; y += 30)
    for (let x = 0; x < width; x += 30) {
      if (!seenAt(real[to], rayOf(real[from], x, y), a)) continue;
      if (a[0] < 0 || a[1] < 0 || a[0] > width - 1 || a[1] > height - 1) continue;
      expect(seenAt(found[to]!, rayOf(found[from]!, x, y), b)).toBe(true);
      most = Math.max(most, Math.hypot(a[0] - b[0], a[1] - b[1]));
    }
  return most;
}

test('exact matches give turns, focal length and bending back', () => {
  const real = taken(1100, -0.04, [0.02, -0.35, 0.03], [0, 0, 0], [-0.03, 0.33, -0.05]);
  const pairs = [pairBetween(real, 0, 1, 0), pairBetween(real, 1, 2, 0)];
  const { cameras, error } = adjust([real[0], real[1], real[2]], pairs)!;
  expect(error).toBeLessThan(0.01);
  for (const camera of cameras) {
    expect(Math.abs(camera!.focal / 1100 - 1)).toBeLessThan(0.005);
    expect(camera!.bend).toBeCloseTo(-0.04, 2);
  }
  expect(worst(real, cameras, 0, 1)).toBeLessThan(0.05);
});

test('matches that are off by a px, and one in ten by 25, leave less than half a px', () => {
  const real = taken(1300, 0.02, [0, -0.25, 0.05], [0.01, 0, 0], [0, 0.26, -0.04]);
  const pairs = [pairBetween(real, 0, 1, 1, 0.1), pairBetween(real, 1, 2, 1, 0.1)];
  const { cameras } = adjust(real, pairs)!;
  expect(worst(real, cameras, 0, 1)).toBeLessThan(1);
  expect(worst(real, cameras, 1, 2)).toBeLessThan(1);
});

test('a frame that hangs on none of the others is left out, and two that do not either are nothing', () => {
  const real = taken(1000, 0, [0, -0.3, 0], [0, 0, 0], [0, 2, 0]);
  const { cameras } = adjust(real, [pairBetween(real, 0, 1, 0.2)])!;
  expect(cameras.map((c) => c !== null)).toEqual([true, true, false]);
  expect(adjust(real, [])).toBeNull();
});

test('a pair may be given in either direction', () => {
  const real = taken(1000, 0, [0, -0.3, 0.02], [0, 0, 0], [0, 0.3, 0]);
  const { cameras, error } = adjust(real, [pairBetween(real, 1, 0, 0), pairBetween(real, 2, 1, 0)])!;
  expect(error).toBeLessThan(0.02);
  expect(worst(real, cameras, 0, 1)).toBeLessThan(0.1);
});
