import { createRaster } from '../../raster/raster.ts';
import type { Point } from '../../mask/shapes.ts';
import { resizeStrand, scaleFor, strandOutline, usualWidth } from './strand-cover.ts';
import { traceStrand } from './strand.ts';

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

/** A picture painted by luma at each place, with a little grain. */
function painted(width: number, height: number, at: (x: number, y: number) => number) {
  const picture = createRaster(width, height, 1, 8);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      picture.data[y * width + x] = at(x + 0.5, y + 0.5) + (((x * 7919 + y * 104729) >>> 3) % 5);
  return picture;
}

/** How far a found line lies from where it should, px on average and at most, leaving out its ends. */
function offOf(points: Point[], centre: (x: number) => number, from: number, to: number) {
  const off = points.filter(([x]) => x > from && x < to).map(([x, y]) => Math.abs(y - centre(x)));
  return { mean: off.reduce((a, b) => a + b, 0) / off.length, most: Math.max(...off) };
}

describe('a strand that is not seen everywhere', () => {
  const centre = (x: number) => 100 + 60 * 4 * ((x - 20) / 560) * (1 - (x - 20) / 560);

  test('hangs on through a stretch in which it has the tone of its ground, past a line that leads away there', () => {
    const picture = painted(600, 240, (x, y) => {
      const hidden = x > 230 && x < 400;
      // Where it is hidden a twig runs off to one side for a while.
      if (hidden && x < 290 && Math.abs(y - (centre(230) - 0.35 * (x - 230))) < 1.5) return 75;
      if (!hidden && Math.abs(y - centre(x)) < 2) return 30;
      return hidden ? 34 + 20 * Math.sin(x / 9) ** 2 : 160;
    });
    const found = traceStrand(picture, [
      [20, centre(20)],
      [580, centre(580)],
    ]);
    expect(offOf(found.points, centre, 30, 220).mean).toBeLessThan(0.6);
    expect(offOf(found.points, centre, 410, 570).mean).toBeLessThan(0.6);
    expect(offOf(found.points, centre, 240, 390).most).toBeLessThan(13);
    expect(found.certainty).toBeLessThan(0.95);
  });

  test('several clicks bound how far it bows between two of them', () => {
    const straight = () => 120;
    // From 250 on there is only a strong line that leads away and comes back.
    const picture = painted(600, 240, (x, y) => {
      if (x < 250 || x > 420) return Math.abs(y - 120) < 2 ? 30 : 160;
      return Math.abs(y - (120 + 22 * Math.sin((Math.PI * (x - 250)) / 170))) < 2 ? 30 : 160;
    });
    const clicks: Point[] = [20, 250, 420, 580].map((x) => [x, 120]);
    const bound = traceStrand(picture, clicks);
    const free = traceStrand(picture, [clicks[1], clicks[2]]);
    expect(offOf(bound.points, straight, 270, 400).most).toBeLessThan(12);
    expect(offOf(free.points, straight, 270, 400).most).toBeGreaterThan(17);
  });
});

describe('a strand that is hard to see', () => {
  const faint = (x: number) => 150 - (70 * 4 * (x - 20) * (580 - x)) / 560 ** 2;
  const ends: Point[] = [
    [20, faint(20)],
    [580, faint(580)],
  ];
  // Pieces of strong lines, one after the other, that together lead from end to end more cheaply.
  const broken = (x: number) => 150 + 12 * Math.sin(Math.PI * ((x - 20) / 560)) + ((Math.floor(x / 40) * 5) % 9) - 4;
  const width = (x: number) => 1 + (Math.floor(x / 40) % 3);

  test('is told from what only leads the same way by its steady width and course', () => {
    const picture = painted(600, 260, (x, y) => {
      if (x % 40 > 4 && Math.abs(y - broken(x)) < width(x)) return 75;
      return Math.abs(y - faint(x)) < 2 ? 128 : 150;
    });
    const found = traceStrand(picture, ends);
    expect(offOf(found.points, faint, 40, 560).mean).toBeLessThan(0.5);
    expect(Math.abs(found.width - 4)).toBeLessThan(0.8);
  });

  test('is run on smoothly where something hides it, and said to be unsure there', () => {
    const line = (x: number) => 90 + 0.15 * x;
    const lost = (x: number) => x > 250 && x < 340;
    const dash = (x: number) => line(x) + ((Math.floor(x / 10) * 7) % 9) - 4;
    const picture = painted(600, 260, (x, y) => {
      if (lost(x)) return Math.abs(y - dash(x)) < 1.5 ? 110 : 150;
      return Math.abs(y - line(x)) < 2 ? 128 : 150;
    });
    const found = traceStrand(picture, [
      [20, line(20)],
      [580, line(580)],
    ]);
    expect(offOf(found.points, line, 30, 570).most).toBeLessThan(1.5);
    const unsure = (from: number, to: number) => {
      const list = found.unsure.filter((_, i) => found.points[i][0] > from && found.points[i][0] < to);
      return list.reduce((a, b) => a + b, 0) / list.length;
    };
    expect(unsure(270, 320)).toBeGreaterThan(0.3);
    expect(unsure(40, 220)).toBeLessThan(0.05);
    expect(unsure(370, 560)).toBeLessThan(0.05);
  });
});

describe('a long strand', () => {
  // Looked for at a half, a third and a quarter of the size.
  test.each([1300, 2000, 3400])('of %i px is found within a third of a px', (span) => {
    const centre = (x: number) => 120 + 40 * Math.sin(x / 500);
    const picture = painted(span + 60, 240, (x, y) =>
      Math.abs(y - centre(x)) < 2.5 ? 40 : 150 + 20 * Math.sin(x / 60),
    );
    const found = traceStrand(picture, [
      [30, centre(30)],
      [span + 30, centre(span + 30)],
    ]);
    expect(offOf(found.points, centre, 40, span + 20).mean).toBeLessThan(0.34);
    expect(Math.abs(found.width - 5)).toBeLessThan(0.6);
    expect(found.length).toBeGreaterThan(span - 10);
    expect(found.length).toBeLessThan(span + 30);
  });

  test('of 2 px is not lost between the places that are read', () => {
    const centre = (x: number) => 60 + x / 40;
    const picture = painted(3000, 200, (x, y) => (Math.abs(y - centre(x)) < 1 ? 60 : 150));
    const found = traceStrand(picture, [
      [30, centre(30)],
      [2970, centre(2970)],
    ]);
    expect(offOf(found.points, centre, 40, 2960).most).toBeLessThan(1);
    expect(Math.abs(found.width - 2)).toBeLessThan(0.6);
  });
});

describe('what a strand is traced on', () => {
  const line = (x: number) => 60 + 0.1 * x;
  const bar = (x: number, y: number) => Math.abs(y - line(x)) < 2;
  const ends: Point[] = [
    [15, line(15)],
    [285, line(285)],
  ];

  test('turned by a quarter, mirrored, or as a negative it is the same strand', () => {
    const picture = painted(300, 150, (x, y) => (bar(x, y) ? 40 : 150));
    const turned = createRaster(150, 300, 1, 8);
    for (let y = 0; y < 150; y++) for (let x = 0; x < 300; x++) turned.data[x * 150 + y] = picture.data[y * 300 + x];
    const negative = { ...picture, data: picture.data.map((v) => 255 - v) };
    const one = traceStrand(picture, ends);
    const two = traceStrand(
      turned,
      ends.map(([x, y]): Point => [y, x]),
    );
    const three = traceStrand(negative, ends);
    expect(Math.abs(two.width - one.width)).toBeLessThan(0.2);
    expect(
      offOf(
        two.points.map(([x, y]): Point => [y, x]),
        line,
        20,
        280,
      ).mean,
    ).toBeLessThan(0.25);
    expect(Math.abs(three.contrast + one.contrast)).toBeLessThan(2);
    expect(offOf(three.points, line, 20, 280).mean).toBeLessThan(0.25);
  });

  test('dark before light ground and light before dark ground in one go', () => {
    const picture = painted(300, 150, (x, y) => (bar(x, y) ? 110 : x < 150 ? 190 : 40));
    const found = traceStrand(picture, ends);
    expect(offOf(found.points, line, 20, 280).mean).toBeLessThan(0.5);
    expect(Math.abs(found.width - 4)).toBeLessThan(0.8);
  });

  test('out of focus it says by how much', () => {
    const soft = (sigma: number) => {
      const picture = painted(300, 150, (x, y) => {
        const d = Math.abs(y - line(x));
        // A bar of 6 px with Gaussian edges, by a logistic curve close to the error function (from memory).
        const share = 1 / (1 + Math.exp((1.702 * (d - 3)) / sigma));
        return 150 + (30 - 150) * share;
      });
      return traceStrand(picture, ends);
    };
    const [sharp, blurred] = [soft(0.4), soft(2)];
    expect(blurred.blur).toBeGreaterThan(sharp.blur + 0.8);
    expect(Math.abs(blurred.blur - 2)).toBeLessThan(0.6);
    expect(Math.abs(blurred.width - 6)).toBeLessThan(1);
  });
});

describe('a stretch along which another line runs close by', () => {
  const length = 3000;
  const centre = (x: number) => 150 + 360 * (x / length) * (1 - x / length);

  test.each([
    [14, 200, 40, 5],
    [18, 230, 20, 6],
  ])(
    'does not draw a long strand aside: an eave %i px above it of tone %i with a shadow of %i',
    (gap, eave, shadow, half) => {
      const picture = painted(length, 360, (x, y) => {
        const d = y - centre(x);
        const wall = 110 + 35 * Math.sin(x / 9);
        const under = d < -gap - 3 ? eave : d < -gap + 3 ? shadow : wall;
        const ground = x > 1100 && x < 1900 ? under : 120;
        return Math.abs(d) < half ? 25 + 0.35 * ground : ground;
      });
      const found = traceStrand(picture, [
        [30, centre(30)],
        [length - 30, centre(length - 30)],
      ]);
      const off = offOf(found.points, centre, 40, length - 40);
      expect(off.mean).toBeLessThan(0.3);
      expect(off.most).toBeLessThan(1.5);
      expect(Math.abs(found.width - 2 * half)).toBeLessThan(0.5);
    },
  );
});

test('strands of another size', () => {
  const strand = {
    points: [
      [2, 4],
      [10, 8],
    ] as Point[],
    widths: [6, 10],
    width: 8,
    blur: 1,
    contrast: -40,
    length: 9,
    certainty: 0.7,
    blurs: [],
    unsure: [0, 1],
  };
  expect(resizeStrand(strand, 0.5)).toEqual({
    ...strand,
    points: [
      [1, 2],
      [5, 4],
    ],
    widths: [3, 5],
    blurs: [],
    unsure: [0, 0.5],
    width: 4,
    blur: 0.5,
    length: 4.5,
  });
  expect(resizeStrand(resizeStrand(strand, 0.5), 2)).toEqual(strand);
  const of = (...widths: number[]) => widths.map((width) => ({ ...strand, width }));
  expect(usualWidth(of(3, 20, 5))).toBe(5);
  // Wide ones are looked for at half the size.
  expect(scaleFor(of(3, 20, 5))).toBe(1);
  expect(scaleFor(of(9, 12, 5))).toBe(2);
});
