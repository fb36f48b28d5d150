import { createRaster } from '../raster/raster.ts';
import { strandOutline, traceStrand } from './strand.ts';

/** A grey ground that slopes from dark to bright, with a sagging strand of known width and tone on it. */
function scene(width: number, tone: number) {
  const picture = createRaster(500, 200, 1, 8);
  const centre = (x: number) => 80 + (30 * 4 * (x - 20) * (480 - x)) / 460 ** 2;
  for (let y = 0; y < 200; y++) {
    for (let x = 0; x < 500; x++) {
      const slope = Math.hypot(1, centre(x + 1) - centre(x));
      const share = Math.min(1, Math.max(0, 0.5 + width / 2 - Math.abs(y + 0.5 - centre(x + 0.5)) / slope));
      const ground = 90 + x / 10 + (((x * 7919 + y * 104729) >>> 3) % 7);
      picture.data[y * 500 + x] = Math.round(ground + (tone - ground) * share);
    }
  }
  return { picture, centre };
}

describe('traceStrand', () => {
  test.each([
    [3, 20],
    [6, 20],
    [4, 230],
  ])('follows the sag of a strand %i px wide of tone %i from two points', (width, tone) => {
    const { picture, centre } = scene(width, tone);
    const found = traceStrand(picture, [
      [20, centre(20) + 1.5],
      [480, centre(480) - 1.5],
    ]);
    const off = found.points.map(([x, y]) => Math.abs(y - centre(x)));
    expect(off.reduce((a, b) => a + b) / off.length).toBeLessThan(0.3);
    expect(Math.abs(found.width - width)).toBeLessThan(0.5);
    expect(Math.sign(found.contrast)).toBe(tone < 100 ? -1 : 1);
    expect(found.certainty).toBeGreaterThan(0.9);
    expect(found.length).toBeGreaterThan(460);
  });

  test('its outline lies beyond the strand by the margin on both sides', () => {
    const points: Array<[number, number]> = [
      [0, 0],
      [10, 0],
      [20, 0],
    ];
    const outline = strandOutline({ points, widths: [4, 4, 4] }, 1);
    expect(outline.map((p) => Math.abs(p[1]))).toEqual([3, 3, 3, 3, 3, 3]);
  });

  test('points too close together are refused in words', () => {
    const { picture } = scene(3, 20);
    expect(() =>
      traceStrand(picture, [
        [20, 80],
        [22, 80],
      ]),
    ).toThrow(/two points/);
  });
});
