import { largestFree, largestWorth } from './rectangle.ts';

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

test('a gap is let in where it brings in much more than it costs', () => {
  const [width, height] = [160, 60];
  const gaps = new Uint8Array(width * height);
  // A wedge along the top that is 20 px high at the right, and a strip of 3 px along the left.
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (y < (20 * x) / width || x < 3) gaps[y * width + x] = 1;
  const free = largestFree(gaps, width, height);
  const between = largestWorth(gaps, width, height);
  const areaOf = (b: { width: number; height: number }) => b.width * b.height;
  expect(areaOf(between)).toBeGreaterThan(areaOf(free));
  expect(areaOf(between)).toBeLessThan(areaOf({ width, height }));
  expect(between.x).toBe(3);
  // Px by px over all rectangles there is none that is worth more.
  const worth = (x0: number, y0: number, x1: number, y1: number) => {
    let sum = 0;
    for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) sum += gaps[y * width + x] ? -4 : 1;
    return sum;
  };
  const own = worth(between.x, between.y, between.x + between.width, between.y + between.height);
  for (let x0 = 0; x0 < 12; x0 += 3)
    for (let y0 = 0; y0 < 24; y0++)
      for (let x1 = 100; x1 <= width; x1 += 4) expect(worth(x0, y0, x1, height)).toBeLessThanOrEqual(own);
  expect(largestWorth(new Uint8Array(600), 30, 20)).toEqual({ x: 0, y: 0, width: 30, height: 20 });
});
