import { grownBySquare, takeGroup } from './groups.ts';

/** A mask from rows of dots and crosses. */
function maskOf(...rows: string[]) {
  const [width, height] = [rows[0].length, rows.length];
  return { width, height, data: Uint8Array.from(rows.join(''), (c) => (c === 'x' ? 1 : 0)) };
}
const rowsOf = (data: ArrayLike<number>, width: number) =>
  Array.from({ length: data.length / width }, (_, y) =>
    Array.from({ length: width }, (_, x) => (data[y * width + x] ? 'x' : '.')).join(''),
  );

test('a group is what hangs together, corners too, and not what only meets it around the end of a row', () => {
  const { width, data } = maskOf('xx...x', '..x..x', 'x..x..', '......');
  const first = takeGroup(data, 0, width);
  expect(first[0]).toBe(0);
  expect([...first].sort((a, b) => a - b)).toEqual([0, 1, 8, 15]);
  expect(rowsOf(data, width)).toEqual(['.....x', '.....x', 'x.....', '......']);
  expect([...takeGroup(data, 5, width)].sort((a, b) => a - b)).toEqual([5, 11]);
  expect(takeGroup(data, 12, width)).toEqual([12]);
  expect(data.includes(1)).toBe(false);
});

test('taking every group in turn takes every px once', () => {
  const width = 40;
  const data = Uint8Array.from({ length: width * 30 }, (_, i) => (((i * 2654435761) >>> 11) % 3 ? 0 : 1));
  const all = data.reduce((s, v) => s + v, 0);
  const taken = new Set<number>();
  let count = 0;
  for (let start = data.indexOf(1); start >= 0; start = data.indexOf(1, start))
    for (const i of takeGroup(data, start, width)) {
      taken.add(i);
      count++;
    }
  expect([count, taken.size]).toEqual([all, all]);
});

test('a mask grows by a square to each side and ends with its picture', () => {
  const { width, height, data } = maskOf('x......', '.......', '.......', '.....x.', '.......');
  expect(rowsOf(grownBySquare(data, width, height, 1), width)).toEqual([
    'xx.....',
    'xx.....',
    '....xxx',
    '....xxx',
    '....xxx',
  ]);
  expect(rowsOf(grownBySquare(data, width, height, 2), width)).toEqual([
    'xxx....',
    'xxxxxxx',
    'xxxxxxx',
    '...xxxx',
    '...xxxx',
  ]);
});

test('it grows as px by px comparison says', () => {
  const [width, height, by] = [31, 23, 3];
  const data = Uint8Array.from({ length: width * height }, (_, i) => (((i * 2654435761) >>> 10) % 29 ? 0 : 1));
  const grown = grownBySquare(data, width, height, by);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let any = 0;
      for (let v = Math.max(0, y - by); v <= Math.min(height - 1, y + by); v++)
        for (let u = Math.max(0, x - by); u <= Math.min(width - 1, x + by); u++) any ||= data[v * width + u];
      expect(grown[y * width + x]).toBe(any);
    }
});
