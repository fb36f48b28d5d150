import { largestFree } from './rectangle.ts';

test('the largest part without gaps is exact, against all that there are', () => {
  let seed = 5;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  for (let round = 0; round < 40; round++) {
    const [width, height] = [3 + Math.floor(9 * random()), 3 + Math.floor(9 * random())];
    const gaps = Uint8Array.from({ length: width * height }, () => (random() < 0.2 ? 1 : 0));
    let most = 0;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        for (let v = y; v < height; v++)
          for (let u = x; u < width; u++) {
            let free = true;
            for (let q = y; q <= v && free; q++) for (let p = x; p <= u && free; p++) free = !gaps[q * width + p];
            if (free) most = Math.max(most, (u - x + 1) * (v - y + 1));
          }
    const box = largestFree(gaps, width, height);
    expect(box.width * box.height).toBe(most);
    for (let y = box.y; y < box.y + box.height; y++)
      for (let x = box.x; x < box.x + box.width; x++) expect(gaps[y * width + x]).toBe(0);
  }
});

test('all gap leaves nothing, no gap leaves all', () => {
  expect(largestFree(new Uint8Array(12).fill(1), 4, 3)).toMatchObject({ width: 0, height: 0 });
  expect(largestFree(new Uint8Array(12), 4, 3)).toEqual({ x: 0, y: 0, width: 4, height: 3 });
});
