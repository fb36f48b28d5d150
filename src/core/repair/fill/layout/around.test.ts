import { likeAround } from './around.ts';
import { coveredIn, type Level } from './levels.ts';

const WIDTH = 120;
const HEIGHT = 80;

/** Coarse courses on the left two thirds, around a cover; an even ground of the same mean tone on the right. */
function level(): Level {
  const pixels = new Uint8Array(WIDTH * HEIGHT * 4);
  const cover = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0, i = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++, i++) {
      const tone = x < 80 ? 100 + (((x >> 2) + (y >> 2)) % 2 ? 40 : -40) : 100;
      pixels.fill(tone, 4 * i, 4 * i + 3);
      if (x >= 30 && x < 50 && y >= 30 && y < 50) cover[i] = 1;
    }
  }
  const known = cover.map((v) => 1 - v);
  return { width: WIDTH, height: HEIGHT, pixels, cover, covered: coveredIn(cover), known, allowed: known.slice() };
}

test('an even ground that touches the cover nowhere gives no donors, whatever its tone', () => {
  const own = likeAround(level())!;
  expect(own[40 * WIDTH + 105]).toBe(0);
  expect(own[40 * WIDTH + 15]).toBe(1);
  expect(own[10 * WIDTH + 60]).toBe(1);
  // Nothing is allowed that was not.
  expect(own[40 * WIDTH + 40]).toBe(0);
});

test('where too little would be left, all stays as it was', () => {
  const narrow = level();
  narrow.allowed = narrow.allowed.map((v, i) => v & Number(i % WIDTH >= 80 || i % WIDTH < 8));
  expect(likeAround(narrow)).toBeNull();
});
