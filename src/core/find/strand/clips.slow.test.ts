import { createRaster } from '../../raster/raster.ts';
import { rasterise, type Point } from '../../mask/shapes.ts';
import { findClips } from './clips.ts';
import type { TracedStrand } from './traced-strand.ts';

const [W, H] = [640, 480];

/** A fence of straight strands in front of a soft ground, clips on it, and one thing off it. */
function scene(tone: number) {
  const picture = createRaster(W, H, 3, 8);
  const strands: TracedStrand[] = [];
  for (let n = -6; n <= 12; n++)
    for (const lean of [0.7, -0.7]) {
      const points: Point[] = [];
      for (let y = 0; y <= H; y += 4) {
        const x = n * 80 + 40 + lean * (y - H / 2);
        if (x > -20 && x < W + 20) points.push([x, y]);
      }
      if (points.length < 4) continue;
      strands.push({
        points,
        widths: points.map(() => 5),
        width: 5,
        blur: 0.5,
        contrast: 0,
        length: 0,
        certainty: 1,
        blurs: [],
        unsure: [],
      });
    }
  const cover = rasterise(
    strands.map((s) => ({ op: 'add', kind: 'strand', points: s.points, size: 5 })),
    { x: 0, y: 0, width: W, height: H },
  ).data;
  const onStrand = (n: number, t: number): Point => strands[n].points[Math.floor(t * (strands[n].points.length - 1))];
  const clips = [onStrand(8, 0.3), onStrand(11, 0.55), onStrand(14, 0.7), onStrand(16, 0.35)].map(([x, y]) => ({
    x,
    y,
  }));
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const i = (y * W + x) * 3;
      const ground = 140 + 25 * Math.sin(x / 80) + (((x * 7919 + y * 104729) >>> 3) % 7);
      const clip = clips.some((c) => Math.hypot((x + 0.5 - c.x) / 9, (y + 0.5 - c.y) / 7.5) < 1);
      const value = clip ? tone + 12 : cover[y * W + x] ? tone : ground;
      for (let c = 0; c < 3; c++) picture.data[i + c] = value;
    }
  return { picture, strands, clips };
}

describe('findClips', () => {
  test.each([
    ['dark', 40],
    ['light', 225],
  ])('finds clips on a %s fence, and nothing where it is bare', (_, tone) => {
    const { picture, strands, clips } = scene(tone);
    const found = findClips(picture, strands);
    expect(found).toHaveLength(clips.length);
    for (const { x, y } of clips) {
      const over = found.filter(
        (f) =>
          rasterise(f.shapes, f.box).data.length &&
          Math.hypot(f.box.x + f.box.width / 2 - x, f.box.y + f.box.height / 2 - y) < 4,
      );
      expect(over).toHaveLength(1);
      // About as large as it is: 18 by 15 px.
      expect(over[0].width).toBeGreaterThan(13);
      expect(over[0].width).toBeLessThan(20);
      expect(over[0].kind).toBe('object');
      expect(Math.sign(over[0].contrast)).toBe(tone > 128 ? 1 : -1);
    }
  });

  test('changes nothing and finds nothing without strands', () => {
    const { picture, strands } = scene(40);
    const before = picture.data.slice();
    findClips(picture, strands);
    expect(Buffer.compare(picture.data as Uint8Array, before as Uint8Array)).toBe(0);
    expect(findClips(picture, [])).toEqual([]);
  });

  test('can be cancelled', () => {
    const { picture, strands } = scene(40);
    expect(() =>
      findClips(picture, strands, () => {
        throw new Error('cancelled');
      }),
    ).toThrow('cancelled');
  });
});
