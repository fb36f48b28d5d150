import { createRaster } from './raster.ts';
import { emptyPatch, compositeOver } from './patch.ts';

describe('laying a patch over the picture', () => {
  test.each([8, 16] as const)('follows Porter–Duff over at %i bit', (depth) => {
    const top = depth === 16 ? 65535 : 255;
    const picture = createRaster(3, 1, 3, depth);
    picture.data.fill(Math.round(top * 0.2));
    const patch = emptyPatch({ x: 0, y: 0, width: 3, height: 1 }, picture);
    for (let x = 0; x < 3; x++) {
      for (let c = 0; c < 3; c++) patch.data[x * 4 + c] = Math.round(top * 0.8);
      patch.data[x * 4 + 3] = [0, Math.round(top / 2), top][x];
    }
    const half = { ...picture, data: picture.data.slice() };
    compositeOver(half, { x: 0, y: 0 }, patch, 0.5);
    const beneath = Math.round(top * 0.2);
    const over = Math.round(top * 0.8);
    expect(half.data[0]).toBe(beneath);
    expect(half.data[3]).toBe(Math.round(beneath + (over - beneath) * (Math.round(top / 2) / top) * 0.5));
    expect(half.data[6]).toBe(Math.round(beneath + (over - beneath) * 0.5));
    compositeOver(picture, { x: 0, y: 0 }, patch, 1);
    expect(picture.data[6]).toBe(over);
  });

  test('leaves alpha and everything outside its box alone', () => {
    const picture = createRaster(5, 5, 4, 8);
    picture.data.forEach((_, i) => (picture.data[i] = (i * 37) % 256));
    const before = picture.data.slice();
    const patch = emptyPatch({ x: 3, y: 3, width: 4, height: 4 }, picture);
    patch.data.fill(255);
    compositeOver(picture, { x: 0, y: 0 }, patch, 1);
    for (let y = 0; y < 5; y++) {
      for (let x = 0; x < 5; x++) {
        const o = (y * 5 + x) * 4;
        const inside = x >= 3 && y >= 3;
        for (let c = 0; c < 3; c++) expect(picture.data[o + c]).toBe(inside ? 255 : before[o + c]);
        expect(picture.data[o + 3]).toBe(before[o + 3]);
      }
    }
  });
});
