import { BLOCK, BlockPicture } from './blocks.ts';
import { createRaster, crop, type Box } from './raster.ts';

const whole = createRaster(700, 600, 3, 16);
for (let i = 0; i < whole.data.length; i++) whole.data[i] = (i * 31) % 65521;
const bring = (blocks: BlockPicture, box: Box): Box => {
  const missing = blocks.missing(box);
  if (missing.width) blocks.put(missing, crop(whole, missing));
  return missing;
};
const same = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Buffer.from(Uint16Array.from(a).buffer).equals(Buffer.from(Uint16Array.from(b).buffer));

describe('pixels at hand in blocks', () => {
  test('reads across blocks what the picture holds, at its edges too', () => {
    const blocks = new BlockPicture(700, 600);
    for (const box of [
      { x: 240, y: 250, width: 30, height: 20 },
      { x: 500, y: 500, width: 200, height: 100 },
      { x: 0, y: 0, width: 700, height: 600 },
    ]) {
      bring(blocks, box);
      expect(same(blocks.read(box).data, crop(whole, box).data)).toBe(true);
    }
  });

  test('asks for whole blocks, only for missing ones, and never beyond the picture', () => {
    const blocks = new BlockPicture(700, 600);
    expect(bring(blocks, { x: 300, y: 10, width: 5, height: 5 })).toEqual({
      x: BLOCK,
      y: 0,
      width: BLOCK,
      height: BLOCK,
    });
    expect(blocks.missing({ x: 260, y: 0, width: 100, height: 100 }).width).toBe(0);
    expect(blocks.missing({ x: 690, y: 590, width: 500, height: 500 })).toEqual({
      x: 512,
      y: 512,
      width: 188,
      height: 88,
    });
  });

  test('says when pixels are not at hand', () => {
    const blocks = new BlockPicture(700, 600);
    expect(() => blocks.read({ x: 0, y: 0, width: 4, height: 4 })).toThrow('at hand');
    bring(blocks, { x: 0, y: 0, width: 4, height: 4 });
    expect(() => blocks.read({ x: 250, y: 0, width: 20, height: 4 })).toThrow('not at hand yet');
  });
});
