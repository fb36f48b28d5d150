import type { Shape } from '../../mask/shapes.ts';
import { createRaster, crop, type Box, type Raster } from '../../raster/raster.ts';
import { divides, renderAhead, renderRepair } from '../registry.ts';
import type { FillSpec } from '../spec.ts';
import { fillThin } from './thin.ts';

const [W, H] = [2000, 60];

/** A picture of waves, two blocks wide, with a thin bar in each, and painted over there. */
function scene() {
  const picture = createRaster(W, H, 3, 8);
  const cover = new Uint8Array(W * H);
  for (let y = 0, i = 0; y < H; y++)
    for (let x = 0; x < W; x++, i++) {
      const v = 120 + 50 * Math.sin(x * 0.11 + y * 0.07);
      picture.data.set([v, v * 0.9, v * 0.7], i * 3);
      if (y >= 28 && y < 32 && ((x > 100 && x < 300) || (x > 1250 && x < 1500))) cover[i] = 1;
    }
  const truth = picture.data.slice();
  cover.forEach((v, i) => v && picture.data.fill(255, i * 3, i * 3 + 3));
  return { picture, cover, truth };
}
const copyOf = (picture: Raster): Raster => ({ ...picture, data: picture.data.slice() });
const bytes = (raster: Raster, from: number, to: number): number[] => {
  const out: number[] = [];
  for (let y = 28; y < 32; y++) for (let x = from; x < to; x++) out.push(raster.data[(y * W + x) * 3]);
  return out;
};

describe('filling thin covers block by block', () => {
  const { picture, cover, truth } = scene();
  const whole = copyOf(picture);
  fillThin(picture, cover, whole, {});

  test('waves come back, and nothing else changes', () => {
    let [off, changed] = [0, 0];
    const covered = cover.reduce((a, b) => a + b, 0);
    cover.forEach((v, i) => {
      for (let c = 0; c < 3; c++) {
        if (v) off += (whole.data[i * 3 + c] - truth[i * 3 + c]) ** 2;
        else if (whole.data[i * 3 + c] !== truth[i * 3 + c]) changed++;
      }
    });
    expect(changed).toBe(0);
    expect(Math.sqrt(off / covered / 3)).toBeLessThan(2);
  });

  test('only blocks that hold what is wanted are done, and those as ever', () => {
    const wanted = cover.map((v, i) => (v && i % W < 960 ? 1 : 0));
    const out = copyOf(picture);
    fillThin(picture, cover, out, { wanted });
    expect(bytes(out, 101, 300)).toEqual(bytes(whole, 101, 300));
    expect(bytes(out, 1251, 1500).every((v) => v === 255)).toBe(true);
  });

  test('shares of several threads add up to the whole, with progress to the end', () => {
    const out = copyOf(picture);
    for (let index = 0; index < 2; index++) {
      const told: number[] = [];
      fillThin(picture, cover, out, { share: { index, of: 2 } }, (f) => told.push(f));
      expect(told.at(-1)).toBe(1);
    }
    expect(Buffer.from(out.data.buffer).equals(Buffer.from(whole.data.buffer))).toBe(true);
  });
});

describe('a cover whose prediction is divided', () => {
  // Many strands over a large picture, and a dark post that one of them crosses.
  const [wide, high] = [1300, 900];
  const picture = createRaster(wide, high, 3, 8);
  for (let i = 0; i < wide * high; i++) {
    const [x, y] = [i % wide, Math.floor(i / wide)];
    const v = 110 + 60 * Math.sin(x * 0.05) * Math.cos(y * 0.04) + ((i * 2654435761) >>> 28);
    picture.data.set([v, v, v * 0.8], 3 * i);
  }
  const beneath = { width: wide, height: high, read: (box: Box) => crop(picture, box) };
  const strand = (x: number): Shape => ({
    op: 'add',
    kind: 'strand',
    points: [
      [x, 20],
      [x + 90, 880],
    ],
    size: 7,
  });
  const whole = { x: 0, y: 0, width: wide, height: high };
  const spec = (cover: Shape[]): FillSpec => ({
    method: 'fill',
    cover,
    margin: 2,
    feather: 1,
    donorArea: [],
    barred: [],
    avoid: [],
    seed: 1,
    style: 'faithful',
    tone: 'gentle',
    turn: false,
    scale: false,
    mirror: false,
  });
  const strands = [60, 420, 760, 1100].map(strand);

  test('is one of slim shapes over a large area', () => {
    expect(divides(spec(strands), whole)).toBe(true);
    expect(divides(spec(strands.slice(0, 1)), whole)).toBe(false);
    expect(
      divides(spec([...strands, { op: 'add', kind: 'box', x: 300, y: 300, width: 200, height: 150 }]), whole),
    ).toBe(false);
    expect(divides({ method: 'copy', strokes: [], donor: null as never }, whole)).toBe(false);
  });

  test('gives the same bytes from any number of shares', () => {
    const alone = renderRepair(beneath, spec(strands));
    for (const threads of [2, 3]) {
      const pieces = Array.from({ length: threads }, (_, index) =>
        renderAhead(beneath, spec(strands), { index, of: threads }),
      ).flat();
      expect(pieces.length).toBeGreaterThan(1);
      const divided = renderRepair(beneath, spec(strands), undefined, pieces);
      expect(divided.reason).toBe(alone.reason);
      expect(Buffer.from(divided.patch.data.buffer).equals(Buffer.from(alone.patch.data.buffer))).toBe(true);
    }
  });
});
