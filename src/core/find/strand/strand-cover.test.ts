import { rasterise, type Point } from '../../mask/shapes.ts';
import { strandCover } from './strand-cover.ts';
import type { TracedStrand } from './traced-strand.ts';

/** A level strand of 300 px, as wide as it says at each px. */
const strand = (width: (x: number) => number): TracedStrand => ({
  points: Array.from({ length: 300 }, (_, x): Point => [x, 50]),
  widths: Array.from({ length: 300 }, (_, x) => width(x)),
  width: 6,
  blur: 0.5,
  contrast: 40,
  length: 300,
  certainty: 1,
  blurs: [],
  unsure: [],
});
const across = (s: TracedStrand, x: number) => {
  const cover = rasterise(strandCover(s), { x, y: 0, width: 1, height: 100 }).data;
  return cover.filter((v) => v > 0).length;
};

test('a strand of which one side alone is seen for a good way is covered on both sides', () => {
  // As before a sky that is as light as the wire's lit side.
  const half = strand((x) => (x < 180 ? 3 : 6));
  expect(across(half, 90)).toBeGreaterThanOrEqual(9);
  expect(across(half, 240)).toBeLessThanOrEqual(8);
});

test('one that looks thin for a moment, or in between for a moment whole, is taken for what it is', () => {
  const behind = strand((x) => (x > 100 && x < 140 ? 3 : 6));
  expect(across(behind, 120)).toBeLessThanOrEqual(5);
  const crossed = strand((x) => (x > 60 && x < 68 ? 7 : x < 220 ? 3 : 6));
  expect(across(crossed, 150)).toBeGreaterThanOrEqual(9);
});

test('the veil beside it is covered as far as each stretch is soft', () => {
  const turning = { ...strand(() => 6), blur: 0.8, blurs: Array.from({ length: 300 }, (_, x) => (x < 150 ? 0.6 : 3)) };
  expect(across(turning, 60)).toBeLessThanOrEqual(8);
  expect(across(turning, 240)).toBeGreaterThanOrEqual(12);
  expect(across({ ...turning, blurs: [] }, 60)).toBe(across({ ...turning, blurs: [] }, 240));
});

test('one that grows thinner evenly is covered as thin as it is', () => {
  const tapering = strand((x) => 3 + (17 * x) / 299);
  for (const x of [10, 80, 150, 290]) expect(across(tapering, x)).toBeLessThanOrEqual(3 + (17 * x) / 299 + 2);
});
