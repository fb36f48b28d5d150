import { createRaster } from '../../raster/raster.ts';
import { fillRegion } from './region.ts';
import { DEFAULT_FILL } from './settings.ts';
import { stretchesOf } from './stretches.ts';

const [W, H] = [420, 700];
const coverOf = (inside: (x: number, y: number) => boolean) =>
  Uint8Array.from({ length: W * H }, (_, i) => (inside(i % W, Math.floor(i / W)) ? 1 : 0));

describe('the stretches of a cover', () => {
  const pole = coverOf((x, y) => x >= 190 && x < 240 && y >= 20 && y < 660);
  const box = { x: 190, y: 20, width: 50, height: 640 };

  it('of a pole follow each other along it, without gaps, each some two and a half times as long as wide', () => {
    const parts = stretchesOf(pole, W, box);
    expect(parts).toHaveLength(5);
    let y = box.y;
    for (const part of parts) {
      expect(part).toMatchObject({ x: 190, width: 50, y });
      expect(part.height / part.width).toBeGreaterThan(1.8);
      expect(part.height / part.width).toBeLessThan(3.2);
      y += part.height;
    }
    expect(y).toBe(box.y + box.height);
  });

  it('of a bar lie side by side; a square, or an L, is left whole', () => {
    const bar = coverOf((x, y) => x >= 10 && x < 400 && y >= 300 && y < 330);
    const level = stretchesOf(bar, W, { x: 10, y: 300, width: 390, height: 30 });
    expect(level.length).toBeGreaterThan(3);
    expect(level.every((p) => p.y === 300 && p.height === 30)).toBe(true);
    const square = { x: 100, y: 100, width: 200, height: 200 };
    expect(
      stretchesOf(
        coverOf((x, y) => x >= 100 && x < 300 && y >= 100 && y < 300),
        W,
        square,
      ),
    ).toEqual([square]);
    const corner = coverOf(
      (x, y) => (x >= 60 && x < 130 && y >= 100 && y < 400) || (x >= 60 && x < 380 && y >= 330 && y < 400),
    );
    const all = { x: 60, y: 100, width: 320, height: 300 };
    expect(stretchesOf(corner, W, all)).toEqual([all]);
  });
});

describe('a pole before several grounds', () => {
  // Bands of different tone, whose borders rise and fall to different degrees.
  const borders = [
    { y: 150, slope: 0.1 },
    { y: 290, slope: -0.06 },
    { y: 430, slope: 0.16 },
    { y: 560, slope: 0 },
  ];
  const tones = [200, 120, 170, 70, 140];
  const bandAt = (x: number, y: number) => borders.filter((b) => y > b.y + b.slope * (x - W / 2)).length;
  const picture = createRaster(W, H, 3, 8);
  for (let i = 0; i < W * H; i++) {
    const [x, y] = [i % W, Math.floor(i / W)];
    const v = tones[bandAt(x, y)] + ((i * 2654435761) >>> 29) - 4;
    picture.data.set([v, v, v + 10], 3 * i);
  }
  const cover = coverOf((x, y) => x >= 185 && x < 237 && y >= 30 && y < 670);
  const spoilt = { ...picture, data: picture.data.slice() };
  cover.forEach((v, i) => v && spoilt.data.set([10, 200, 30], 3 * i));
  const done = fillRegion({ picture: spoilt, cover }, { ...DEFAULT_FILL, style: 'first' });

  it('each border runs on inside where it is met on both sides, and each band keeps its tone', () => {
    let wrong = 0;
    let near = 0;
    cover.forEach((v, i) => {
      if (!v) return;
      const [x, y] = [i % W, Math.floor(i / W)];
      const tone = done.picture.data[3 * i];
      const nearest = tones.reduce((a, b) => (Math.abs(b - tone) < Math.abs(a - tone) ? b : a));
      const off = Math.min(...borders.map((b) => Math.abs(y - b.y - b.slope * (x - W / 2))));
      if (off <= 4) near++;
      else if (nearest !== tones[bandAt(x, y)]) wrong++;
    });
    const covered = cover.reduce((a, b) => a + b, 0);
    expect(near).toBeGreaterThan(500);
    expect(wrong / covered).toBeLessThan(0.015);
    expect(done.reason).toMatch(/in 5 stretches, each by what is on both sides/);
  });
});
