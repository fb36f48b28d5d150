import { movedOf, seamsOf, type Laid, type Wish } from './seams.ts';

const [width, height] = [60, 40];

/** A frame from column `from` to `to`; `tone` says how light it is. */
const frame = (from: number, to: number, tone: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return x >= from && x < to ? tone(x, y) : NaN;
  });

const wishedBox = (x0: number, x1: number, y0: number, y1: number, value = 1): Wish =>
  Uint8Array.from({ length: width * height }, (_, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return x >= x0 && x < x1 && y >= y0 && y < y1 ? value : 0;
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

test('what is wished of a frame is kept to, the join runs elsewhere', () => {
  const [left, right] = [frame(0, 50, () => 100), frame(10, 60, () => 100)];
  const box = (x0: number, x1: number, value: number) => wishedBox(x0, x1, 10, 20, value);
  const at = (labels: Uint8Array, x: number, y: number) => labels[y * width + x];
  // Kept of the right one far to the left, and the other way round; what is left out of the one is shown by the other.
  const kept = seamsOf([left, right], width, height, [null, box(14, 22, 1)]).labels;
  expect([at(kept, 15, 12), at(kept, 21, 19), at(kept, 3, 15), at(kept, 57, 15)]).toEqual([2, 2, 1, 2]);
  const other = seamsOf([left, right], width, height, [box(40, 48, 1), null]).labels;
  expect([at(other, 41, 12), at(other, 47, 19), at(other, 57, 15)]).toEqual([1, 1, 2]);
  const out = seamsOf([left, right], width, height, [box(12, 30, 2), null]).labels;
  for (let x = 12; x < 30; x++) expect(at(out, x, 15)).toBe(2);
  // Where no other shows it, it is shown all the same.
  expect(at(seamsOf([left, right], width, height, [box(0, 30, 2), null]).labels, 2, 15)).toBe(1);
});

test('of two frames of the same place each gives what is wished of it', () => {
  const dirty = (x: number, y: number) => (Math.hypot(x - 45, y - 20) < 6 ? 60 : 100);
  const other = (x: number, y: number) => (Math.hypot(x - 12, y - 20) < 6 ? 60 : 100);
  const disc = (cx: number, r: number) =>
    Uint8Array.from({ length: width * height }, (_, i) =>
      Math.hypot((i % width) - cx, Math.floor(i / width) - 20) < r ? 2 : 0,
    );
  const { labels, cuts } = seamsOf([frame(0, width, dirty), frame(0, width, other)], width, height, [
    disc(45, 8),
    disc(12, 8),
  ]);
  let spoilt = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const label = labels[y * width + x];
      if ((label === 1 ? dirty(x, y) : other(x, y)) !== 100) spoilt++;
    }
  expect(spoilt).toBe(0);
  expect(cuts).toEqual([]);
});

test('frames in two rows are each taken from, and from one only at each place', () => {
  const part = (x0: number, y0: number) =>
    Float32Array.from({ length: width * height }, (_, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      return x >= x0 && x < x0 + 36 && y >= y0 && y < y0 + 24 ? 100 : NaN;
    });
  const { labels, cuts } = seamsOf([part(0, 0), part(24, 0), part(0, 16), part(24, 16)], width, height);
  expect([labels[0], labels[59], labels[39 * width], labels[39 * width + 59]]).toEqual([1, 2, 3, 4]);
  expect(labels.includes(0)).toBe(false);
  expect(cuts).toEqual([]);
});

test('fine texture that is not laid quite exactly is nothing that moved; what is as small and plain is', () => {
  const speck = (by: number) => (x: number, y: number) => (x >= 28 && x < 32 && y >= 18 && y < 21 ? 100 + by : 100);
  const wishes = [wishedBox(27, 30, 17, 22), wishedBox(30, 33, 17, 22)];
  const told = (by: number) =>
    seamsOf([frame(0, 40, () => 100), frame(20, 60, speck(by))], width, height, wishes).cuts.length;
  expect([told(35), told(140)]).toEqual([0, 1]);
});

test('a cut through what moved tells where all of it is', () => {
  const bar = (x: number, y: number) => (y >= 15 && y < 25 ? 220 : 100);
  const { cuts } = seamsOf([frame(0, 40, () => 100), frame(20, 60, bar)], width, height);
  const { x, y, width: w, height: h } = cuts[0].moved;
  expect(x).toBeLessThanOrEqual(21);
  expect(x + w).toBeGreaterThanOrEqual(39);
  expect(Math.abs(y - 15)).toBeLessThan(2);
  expect(Math.abs(y + h - 25)).toBeLessThan(2);
  // It goes on to the right of the left frame, and to the left of the right one.
  expect(cuts[0].shown).toEqual([false, false]);
});

test('a frame that ends within what moved does not show all of it, the other one does', () => {
  const ground = (x: number, y: number) => 100 + ((x + y) % 2);
  const moved = (from: number) => (x: number, y: number) => (x >= from && y >= 10 && y < 30 ? 220 : ground(x, y));
  const wishes = [wishedBox(28, 36, 24, 29), wishedBox(28, 36, 11, 16)];
  const shownOf = (right: Laid) =>
    seamsOf([frame(0, 40, ground), right], width, height, wishes).cuts.map((c) => c.shown);
  // From the middle of what both show to beyond the end of the left one.
  expect(shownOf(frame(20, 60, moved(30)))).toEqual([[false, true]]);
  // Within what both show.
  expect(shownOf(frame(20, 60, (x, y) => (x < 36 ? moved(26)(x, y) : ground(x, y))))).toEqual([[true, true]]);
});

test('what moved in a frame that is not shown there is known, with what is close around it', () => {
  const thing = (x: number, y: number) => (Math.abs(x - 32) < 3 && Math.abs(y - 20) < 3 ? 220 : 100);
  const frames = [frame(0, 40, () => 100), frame(20, 60, thing)];
  // The join goes to its right: it is not shown.
  const labels = Uint8Array.from({ length: width * height }, (_, i) => (i % width < 38 ? 1 : 2));
  const [first, second] = movedOf(frames, { labels, cuts: [] }, width);
  expect(first.includes(1)).toBe(false);
  const at = (x: number, y: number) => second[y * width + x];
  expect([at(32, 20), at(27, 20), at(32, 25), at(24, 20), at(32, 30), at(50, 20)]).toEqual([1, 1, 1, 0, 0, 0]);
});
