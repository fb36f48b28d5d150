import { distanceTransform } from './distance.ts';
import { boundsOf, coveredPixels, depthOf, spread } from './mask.ts';
import { acrossOf, boundsOfShapes, rasterise, type Point, type Shape } from './shapes.ts';
import { cropPlane } from '../raster/raster.ts';
import { measureFault, proposeCover } from '../plan/cover.ts';

const frame = { x: 0, y: 0, width: 120, height: 90 };
const area = (...shapes: Shape[]) => coveredPixels(rasterise(shapes, frame));

describe('distance transform', () => {
  test('equals the distance found by trying every pixel', () => {
    const w = 31;
    const h = 23;
    const mask = new Uint8Array(w * h).map((_, i) => ((i * 7919) % 97 < 4 ? 1 : 0));
    const got = distanceTransform(mask, w, h, 'inside');
    for (let i = 0; i < mask.length; i++) {
      let best = Infinity;
      for (let j = 0; j < mask.length; j++) {
        if (mask[j]) best = Math.min(best, Math.hypot((i % w) - (j % w), Math.floor(i / w) - Math.floor(j / w)));
      }
      expect(got[i]).toBeCloseTo(best, 4);
    }
  });

  test('in a box it is what the piece alone would give, and nothing is said of the rest', () => {
    const [w, h] = [40, 30];
    const mask = new Uint8Array(w * h).map((_, i) => ((i * 7919) % 97 < 50 ? 1 : 0));
    const box = { x: 7, y: 5, width: 20, height: 16 };
    for (const to of ['inside', 'outside'] as const) {
      const got = distanceTransform(mask, w, h, to, box);
      const alone = distanceTransform(cropPlane(mask, w, box), box.width, box.height, to);
      const wanted = new Float32Array(w * h);
      alone.forEach((v, i) => {
        wanted[(box.y + Math.floor(i / box.width)) * w + box.x + (i % box.width)] = v;
      });
      expect(Array.from(got)).toEqual(Array.from(wanted));
    }
  });
});

describe('shapes', () => {
  test('cover the area of the figure they are', () => {
    expect(area({ op: 'add', kind: 'box', x: 10, y: 20, width: 30, height: 15 })).toBe(450);
    expect(area({ op: 'add', kind: 'brush', points: [[60, 45]], size: 50 })).toBeCloseTo(Math.PI * 625, -1.7);
    const triangle: Point[] = [
      [10, 10],
      [90, 10],
      [10, 70],
    ];
    expect(Math.abs(area({ op: 'add', kind: 'outline', points: triangle }) - 2400)).toBeLessThan(60);
    const strand: Shape = {
      op: 'add',
      kind: 'strand',
      points: [
        [20, 20],
        [100, 60],
      ],
      size: 6,
    };
    const expected = 6 * Math.hypot(80, 40) + Math.PI * 9;
    expect(Math.abs(area(strand) - expected)).toBeLessThan(expected * 0.05);
  });

  test('taking away undoes adding, in order', () => {
    const add: Shape = { op: 'add', kind: 'box', x: 10, y: 10, width: 40, height: 40 };
    const take: Shape = { op: 'take', kind: 'box', x: 10, y: 10, width: 40, height: 20 };
    expect(area(add, take)).toBe(800);
    expect(area(add, take, add)).toBe(1600);
  });

  test('are cut to the picture', () => {
    expect(boundsOfShapes([{ op: 'add', kind: 'brush', points: [[-5, 5]], size: 30 }], 120, 90)).toMatchObject({
      x: 0,
      y: 0,
    });
    expect(boundsOfShapes([{ op: 'add', kind: 'box', x: 500, y: 5, width: 9, height: 9 }], 120, 90).width).toBe(0);
  });

  test('look the same through any frame', () => {
    const shape: Shape = {
      op: 'add',
      kind: 'brush',
      points: [
        [30, 30],
        [80, 50],
        [60, 70],
      ],
      size: 17,
    };
    const whole = rasterise([shape], frame);
    const part = rasterise([shape], { x: 40, y: 35, width: 30, height: 20 });
    for (let y = 0; y < 20; y++) {
      for (let x = 0; x < 30; x++) expect(part.data[y * 30 + x]).toBe(whole.data[(y + 35) * 120 + x + 40]);
    }
  });
});

describe('how wide a shape is', () => {
  test('is its size, its smaller side, or area over half the way round, however it lies', () => {
    expect(acrossOf({ op: 'add', kind: 'brush', points: [[5, 5]], size: 12 })).toBe(12);
    expect(acrossOf({ op: 'add', kind: 'box', x: 0, y: 0, width: 80, height: 9 })).toBe(9);
    // A strip of 6 px, 500 long, on the slant.
    const [c, s] = [Math.cos(0.6), Math.sin(0.6)];
    const strip = ([[0, 0], [500, 0], [500, 6], [0, 6]] as Point[]).map(([x, y]): Point => [c * x - s * y, s * x + c * y]); // prettier-ignore
    expect(acrossOf({ op: 'add', kind: 'outline', points: strip })).toBeCloseTo(6, 0);
    const square: Point[] = [[0, 0], [90, 0], [90, 90], [0, 90]]; // prettier-ignore
    expect(acrossOf({ op: 'add', kind: 'outline', points: square })).toBeGreaterThan(40);
  });
});

describe('margin and feather', () => {
  test('grow a cover by the margin and fall off over the feather', () => {
    const fault = rasterise([{ op: 'add', kind: 'box', x: 50, y: 40, width: 10, height: 10 }], frame);
    const cover = spread(fault, frame, 4, 6);
    const at = (x: number) => cover.data[45 * 120 + x];
    expect(at(46)).toBe(255);
    expect(at(45)).toBeLessThan(255);
    expect(at(45)).toBeGreaterThan(at(43));
    expect(at(43)).toBeGreaterThan(0);
    expect(at(39)).toBe(0);
    expect(boundsOf(cover).x).toBeGreaterThanOrEqual(40);
  });

  test.each([
    [2, 0],
    [3, 2.5],
    [0, 4],
    [5, 6],
  ])('of %d and %d px are measured exactly, near and far', (margin, feather) => {
    const fault = rasterise(
      [
        { op: 'add', kind: 'brush', points: [[20, 20], [90, 60]], size: 5 }, // prettier-ignore
        { op: 'add', kind: 'box', x: 0, y: 70, width: 30, height: 20 },
      ],
      frame,
    );
    const distance = distanceTransform(fault.data, 120, 90, 'inside');
    spread(fault, frame, margin, feather).data.forEach((v, i) => {
      const t = Math.min(1, Math.max(0, 1 - (distance[i] - margin) / feather));
      const wanted = distance[i] <= margin ? 255 : feather ? Math.round(255 * t * t * (3 - 2 * t)) : 0;
      expect(v).toBe(wanted);
    });
  });

  test('a spot is covered 1.2 to 1.5 times its size, a strand gets a hard edge (common practice)', () => {
    for (const size of [20, 30, 60]) {
      const { margin, feather } = proposeCover({ width: size });
      expect((size + 2 * (margin + feather)) / size).toBeGreaterThanOrEqual(1.2);
      expect((size + 2 * (margin + feather)) / size).toBeLessThanOrEqual(1.5);
    }
    expect(proposeCover({ width: 5 }).feather).toBe(0);
  });

  test('the measured width of a strand is its width', () => {
    const facts = measureFault(
      [
        {
          op: 'add',
          kind: 'strand',
          points: [
            [10, 20],
            [110, 60],
          ],
          size: 9,
        },
      ],
      { width: 120, height: 90 },
    );
    expect(Math.abs(facts.width - 9)).toBeLessThanOrEqual(1.2);
    expect(depthOf(rasterise([{ op: 'add', kind: 'box', x: 0, y: 0, width: 120, height: 90 }], frame))).toBe(45);
  });
});
