import { partedByCut } from './part.ts';

const [width, height] = [30, 20];
const plane = (of: (x: number, y: number) => number) =>
  Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
const wishes = (of: (x: number, y: number) => number) => Uint8Array.from(plane(of));
const NONE = wishes(() => 0);
const OUTSIDE = 1e4;

/** Two pictures that share columns 10 to 19. */
const first = plane((x) => (x < 20 ? 1 : NaN));
const second = plane((x) => (x >= 10 ? 1 : NaN));
const shared = (cost: (x: number, y: number) => number) => plane((x, y) => (x >= 10 && x < 20 ? cost(x, y) : OUTSIDE));

/** How often the side changes along a row. */
const changesIn = (taken: Uint8Array, y: number) => {
  let n = 0;
  for (let x = 11; x < 20; x++) if (taken[y * width + x] !== taken[y * width + x - 1]) n++;
  return n;
};

test('the cut runs where going over costs least, once a row', () => {
  // It costs little in a valley that wanders.
  const valley = (y: number) => 14 + Math.round(2 * Math.sin(y / 3));
  const taken = partedByCut(
    shared((x, y) => (Math.abs(x - valley(y)) <= 1 ? 0.1 : 20)),
    first,
    second,
    width,
    NONE,
  );
  for (let y = 0; y < height; y++) {
    expect(changesIn(taken, y)).toBe(1);
    const at = Array.from({ length: width }, (_, x) => x).find((x) => taken[y * width + x])!;
    expect(Math.abs(at - valley(y))).toBeLessThanOrEqual(2);
  }
});

test('beside where one picture goes on alone that one is taken', () => {
  const taken = partedByCut(
    shared(() => 1),
    first,
    second,
    width,
    NONE,
  );
  for (let y = 0; y < height; y++) expect([taken[y * width + 10], taken[y * width + 19]]).toEqual([0, 1]);
  // Where not both are there is nothing to part.
  expect(taken[5] + taken[25]).toBe(0);
});

test('what is wished is kept to, whatever it costs, and no more than that where all else is dear', () => {
  const own = partedByCut(
    shared(() => 1),
    first,
    second,
    width,
    wishes((x, y) => (x >= 10 && x < 13 && y >= 5 && y < 9 ? 1 : 0)),
  );
  for (let y = 5; y < 9; y++) for (let x = 10; x < 13; x++) expect(own[y * width + x]).toBe(1);
  const other = partedByCut(
    shared(() => 1),
    first,
    second,
    width,
    wishes((x, y) => (x >= 16 && y >= 5 && y < 9 ? 2 : 0)),
  );
  for (let y = 5; y < 9; y++) for (let x = 16; x < 20; x++) expect(other[y * width + x]).toBe(0);
});

test('a picture within another is taken as far as it is wished only', () => {
  const all = plane(() => 1);
  const disc = (x: number, y: number) => (Math.hypot(x - 15, y - 10) < 4 ? 1 : 0);
  const costs = plane((x, y) => (Math.abs(Math.hypot(x - 15, y - 10) - 5) < 1 ? 0.1 : 10));
  const keep = (x: number, y: number) => (x < 2 || y < 2 ? 2 : disc(x, y));
  const taken = partedByCut(costs, all, all, width, wishes(keep));
  let beyond = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (disc(x, y)) expect(taken[y * width + x]).toBe(1);
      else if (taken[y * width + x] && Math.hypot(x - 15, y - 10) > 7) beyond++;
    }
  expect(beyond).toBe(0);
  expect(partedByCut(costs, all, all, width, NONE)).toHaveLength(width * height);
});
