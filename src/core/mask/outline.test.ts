import { outlineOf, simplified } from './outline.ts';
import { rasterise } from './shapes.ts';

/** Masks as rows of text; # is covered. */
function maskOf(rows: string[]) {
  const width = rows[0].length;
  return { width, height: rows.length, data: Uint8Array.from(rows.join(''), (c) => (c === '#' ? 1 : 0)) };
}

test.each([
  ['a single pixel', ['...', '.#.', '...']],
  ['a blob with a bay', ['.####.', '######', '###...', '######', '.####.']],
  ['diagonal neighbours', ['#....', '.#...', '..##.', '....#']],
  ['something that touches the border', ['##..', '###.', '####']],
])('the outline of %s gives the same pixels back', (_, rows) => {
  const { width, height, data } = maskOf(rows);
  const points = outlineOf(data, width, height, 3, 5);
  const back = rasterise([{ op: 'add', kind: 'outline', points }], { x: 3, y: 5, width, height });
  expect(Array.from(back.data, (v) => (v ? 1 : 0))).toEqual(Array.from(data));
});

test('holes are filled, only the first group is taken, nothing gives nothing', () => {
  const ring = maskOf(['###..', '#.#..', '###.#']);
  const points = outlineOf(ring.data, ring.width, ring.height);
  const back = rasterise([{ op: 'add', kind: 'outline', points }], { x: 0, y: 0, width: 5, height: 3 });
  expect(back.data.filter((v) => v > 0)).toHaveLength(9);
  expect(outlineOf(new Uint8Array(6), 3, 2)).toEqual([]);
});

test('simplifying leaves out what lies within the tolerance, and no more', () => {
  const wave = Array.from({ length: 101 }, (_, i): [number, number] => [i, 0.3 * Math.sin(i)]);
  expect(simplified(wave, 0.5)).toEqual([wave[0], wave[100]]);
  const corner: Array<[number, number]> = [
    [0, 0],
    [5, 0],
    [10, 0],
    [10, 5],
    [10, 10],
  ];
  expect(simplified(corner, 0.1)).toEqual([
    [0, 0],
    [10, 0],
    [10, 10],
  ]);
});
