import { createRaster, type Raster } from '../../../raster/raster.ts';
import { DEFAULT_FILL } from '../settings.ts';
import { fillRegion } from '../region.ts';
import { Edge, guidesFrom, type Guides } from './guides.ts';

const [W, H] = [220, 180];
const randomiser = (seed: number) => {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
};

/** Light above a border, dark beneath, with grain; a box in the middle is covered. */
function scene(border: (x: number) => number) {
  const random = randomiser(5);
  const picture: Raster = createRaster(W, H, 3, 8);
  const cover = new Uint8Array(W * H);
  for (let i = 0; i < W * H; i++) {
    const [x, y] = [i % W, Math.floor(i / W)];
    const v = (y < border(x) ? 190 : 70) + 14 * (random() - 0.5);
    if (x >= 80 && x < 140 && y >= 60 && y < 120) cover[i] = 1;
    picture.data.set(cover[i] ? [255, 0, 255] : [v, v, 0.8 * v], 3 * i);
  }
  return { picture, cover };
}
const fill = (border: (x: number) => number, guides: Guides) =>
  fillRegion({ ...scene(border), guides }, { ...DEFAULT_FILL, style: 'first' });
/** Share of the covered pixels of a column band that are light. */
const lightIn = ({ picture }: { picture: Raster }, x0: number, x1: number, y0: number, y1: number) => {
  let [light, all] = [0, 0];
  for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++, all++) if (picture.data[3 * (y * W + x)] > 130) light++;
  return light / all;
};

describe('a drawn edge', () => {
  it('tells its left from its right, beyond its ends too', () => {
    const edge = new Edge([
      [10, 50],
      [60, 50],
      [60, 90],
    ]);
    expect(edge.distance(30, 40)).toBeCloseTo(-10);
    expect(edge.distance(30, 58)).toBeCloseTo(8);
    expect(edge.distance(-500, 47)).toBeCloseTo(-3);
    expect(edge.distance(63, 400)).toBeCloseTo(-3);
    expect(edge.distance(70, 45)).toBeLessThan(0);
    expect(edge.distance(55, 55)).toBeGreaterThan(0);
  });

  it('runs on inside the cover where nothing outside would tell', () => {
    // Outside the border is level; inside it is said to make a step.
    const guides: Guides = {
      edges: [
        [
          [60, 90],
          [95, 90],
          [95, 72],
          [125, 72],
          [125, 90],
          [160, 90],
        ],
      ],
      grounds: [],
    };
    const done = fill(() => 90, guides);
    expect(done.reason).toMatch(/drawn edges run on/);
    expect(lightIn(done, 98, 122, 62, 70)).toBeGreaterThan(0.95);
    expect(lightIn(done, 98, 122, 75, 118)).toBeLessThan(0.05);
    expect(lightIn(done, 82, 93, 62, 88)).toBeGreaterThan(0.95);
    expect(lightIn(done, 127, 138, 93, 118)).toBeLessThan(0.05);
  });

  it('is heeded when it is drawn across a thin cover', () => {
    const { picture } = scene(() => 90);
    const cover = new Uint8Array(W * H);
    for (let y = 60; y < 120; y++) for (let x = 100; x < 108; x++) cover[y * W + x] = 1;
    const guides: Guides = {
      edges: [
        [
          [95, 90],
          [115, 90],
        ],
      ],
      grounds: [],
    };
    expect(fillRegion({ picture, cover, guides }, { ...DEFAULT_FILL, style: 'first' })).toMatchObject({ predicted: 0 });
  });
});

describe('a ground that is dragged', () => {
  it('reaches as far as its stroke', () => {
    const done = fill(() => 90, { edges: [], grounds: [{ points: [[110, 150], [110, 80]], size: 24 }] }); // prettier-ignore
    expect(lightIn(done, 100, 120, 82, 88)).toBeLessThan(0.05);
    expect(lightIn(done, 82, 94, 62, 86)).toBeGreaterThan(0.95);
  });

  it('that begins on nothing known is left out', () => {
    const plain = fill(() => 90, { edges: [], grounds: [{ points: [[110, 100], [110, 80]], size: 24 }] }); // prettier-ignore
    expect(lightIn(plain, 100, 120, 62, 86)).toBeGreaterThan(0.95);
  });
});

it('guides are seen from another origin and reduced', () => {
  const guides: Guides = { edges: [[[10, 20]]], grounds: [{ points: [[30, 40]], size: 8 }] };
  expect(guidesFrom(guides, 10, 10, 2)).toEqual({ edges: [[[0, 5]]], grounds: [{ points: [[10, 15]], size: 4 }] });
});
