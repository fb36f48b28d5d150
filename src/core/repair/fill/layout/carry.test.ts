import { createRaster } from '../../../raster/raster.ts';
import { lookedAt } from '../fill-region.ts';
import { carryUp } from './carry.ts';
import { finestLevel } from './levels.ts';

const [WIDTH, HEIGHT] = [40, 30];
/** Where what is known ends. */
const END = 30;

/** Courses that stand a px higher at the end of what is known than where they are taken from. */
function scene() {
  const picture = createRaster(WIDTH, HEIGHT, 3, 8);
  for (let y = 0, o = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++, o += 3)
      picture.data.fill(120 + Math.round(60 * Math.sin((y + (x < 20 ? 0 : 1)) / 1.7)), o, o + 3);
  const cover = Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
    const y = Math.floor(i / WIDTH);
    return i % WIDTH >= END && y >= 4 && y < HEIGHT - 4 ? 1 : 0;
  });
  const known = Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % WIDTH < END ? 1 : 0));
  return finestLevel(picture, cover, known, known);
}
const coarse = {
  box: { x: END / 2, y: 2, width: (WIDTH - END) / 2, height: HEIGHT / 2 - 4 },
  labels: new Int32Array(((WIDTH - END) / 2) * (HEIGHT / 2 - 4)),
  moves: [{ x: -14, y: 0 }],
};

test('a piece is moved to where it meets what is beside it, but one that lies level stays so beside a picture', () => {
  const moveOf = (keepsLevel: boolean) => carryUp(coarse, scene(), keepsLevel).moves;
  expect(moveOf(false)).toHaveLength(1);
  expect(moveOf(false)[0].y).toBe(1);
  expect(moveOf(true)[0].y).toBe(0);
});

test('beside a picture all across is looked at, elsewhere so many px to each side', () => {
  const box = { x: 300, y: 40, width: 100, height: 60 };
  expect(lookedAt(box, 30, 400, 200)).toEqual({ x: 270, y: 10, width: 130, height: 120 });
  expect(lookedAt(box, 30, 400, 200, true)).toEqual({ x: 0, y: 10, width: 400, height: 120 });
});
