import { rasterise } from '../mask/shapes.ts';
import { boxOf } from '../raster/raster.ts';
import { gapShapes, stayedOutInWords, type JoinAccount } from './account.ts';
import { largestFree } from './rectangle.ts';

const [width, height] = [160, 90];

/** Gaps where something says so, their shapes, and what these cover. */
function covering(isGap: (x: number, y: number) => boolean) {
  const gaps = Uint8Array.from({ length: width * height }, (_, i) => (isGap(i % width, Math.floor(i / width)) ? 1 : 0));
  const whole = largestFree(gaps, width, height);
  const shapes = gapShapes(gaps, { width, height, whole } as JoinAccount);
  return { gaps, whole, shapes, covered: rasterise(shapes, boxOf({ width, height })).data };
}

test('shapes of a ragged ring hold all of it and only some px beside it', () => {
  const ragged = (x: number, y: number) =>
    y < 6 + x / 20 || y > 80 - x / 30 || x < 4 + y / 16 || x > 150 - (y % 7 === 0 ? 2 : 0);
  const { gaps, shapes, covered, whole } = covering(ragged);
  expect(shapes).toHaveLength(4);
  let beside = 0;
  for (let i = 0; i < gaps.length; i++) {
    if (gaps[i]) expect(covered[i]).toBeTruthy();
    else if (covered[i]) beside++;
  }
  // The rim of the ring is some 460 px long.
  expect(beside).toBeLessThan(5 * 460);
  // The middle of what is whole stays as it is.
  for (let y = whole.y + 5; y < whole.y + whole.height - 5; y++)
    for (let x = whole.x + 5; x < whole.x + whole.width - 5; x++) expect(covered[y * width + x]).toBe(0);
});

test('groups that lie within each other’s boxes are each told, at 45 degrees as well', () => {
  const { gaps, shapes, covered } = covering((x, y) => y > 60 && (Math.abs(x - y) < 4 || Math.abs(x - y - 25) < 4));
  expect(shapes).toHaveLength(2);
  gaps.forEach((v, i) => v && expect(covered[i]).toBeTruthy());
});

test('where nothing is a gap there is no shape', () => {
  expect(covering(() => false).shapes).toEqual([]);
});

test('frames that stayed out are named', () => {
  expect(stayedOutInWords(['a', 'b', 'c'], { left: [] })).toBeNull();
  expect(stayedOutInWords(['a', 'b', 'c'], { left: [1] })).toBe('b does not belong with them and stayed out.');
  expect(stayedOutInWords(['a', 'b', 'c'], { left: [0, 2] })).toBe('a and c do not belong with them and stayed out.');
});
