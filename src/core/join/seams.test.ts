import { seamsOf } from './seams.ts';

const [width, height] = [60, 40];

/** A frame from column `from` to `to`; `tone` says how light it is. */
const frame = (from: number, to: number, tone: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return x >= from && x < to ? tone(x, y) : NaN;
  });

test('the join runs round what differs', () => {
  // Something stands in the middle of the overlap in one of the frames only.
  const thing = (x: number, y: number) => Math.hypot(x - 30, y - 20) < 5;
  const { labels, cuts } = seamsOf(
    [frame(0, 40, () => 100), frame(20, 60, (x, y) => (thing(x, y) ? 200 : 100))],
    width,
    height,
  );
  const owners = new Set<number>();
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) if (thing(x, y)) owners.add(labels[y * width + x]);
  expect(owners.size).toBe(1);
  expect(cuts).toHaveLength(0);
});

test('a px is taken from a frame that shows it, and from one only; none where no frame is', () => {
  const { labels } = seamsOf([frame(30, 55, () => 90), frame(5, 40, () => 90)], width, height);
  for (let i = 0; i < labels.length; i++) {
    const x = i % width;
    if (x < 5 || x >= 55) expect(labels[i]).toBe(0);
    else if (x < 30) expect(labels[i]).toBe(2);
    else if (x >= 40) expect(labels[i]).toBe(1);
    else expect(labels[i]).toBeGreaterThan(0);
  }
});

test('a join that cannot go round is told, with both its frames', () => {
  const bar = (x: number, y: number) => (y >= 15 && y < 25 ? 220 : 100);
  const { cuts } = seamsOf([frame(0, 40, () => 100), frame(20, 60, bar)], width, height);
  expect(cuts).toHaveLength(1);
  expect(cuts[0].frames).toEqual([0, 1]);
  expect(cuts[0].length).toBeGreaterThanOrEqual(8);
  expect(Math.abs(cuts[0].y - 20)).toBeLessThan(3);
});

test('frames one above the other are parted along a way across', () => {
  const above = Float32Array.from({ length: width * height }, (_, i) => (i / width < 24 ? 100 : NaN));
  const below = Float32Array.from({ length: width * height }, (_, i) => (i / width >= 16 ? 100 : NaN));
  const { labels } = seamsOf([below, above], width, height);
  expect(labels[5 * width + 30]).toBe(2);
  expect(labels[35 * width + 30]).toBe(1);
  for (let x = 0; x < width; x++) {
    let changes = 0;
    for (let y = 1; y < height; y++) if (labels[y * width + x] !== labels[(y - 1) * width + x]) changes++;
    expect(changes).toBe(1);
  }
});
