// Pictures with covers over two grounds and over regular structure, whose truth is known, and what a fill of them is measured by.
import { blur } from '../src/core/raster/planes.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { photograph, randomiser } from './planted.ts';

/** A picture, its cover and what is known of it. */
export interface Planted {
  name: string;
  truth: Raster;
  cover: Uint8Array;
  /** which of two grounds each pixel belongs to; none for regular structure */
  side?: Uint8Array;
}

/** A crop of one ground: photograph, box in px of the original, for pictures of any size. */
interface Texture {
  picture: string;
  box: [x: number, y: number, width: number, height: number];
}

const TEXTURES: Record<string, Texture> = {
  meadow: { picture: 'aitzgorri_by_Aitzol_Berasategi', box: [0, 1420, 3000, 600] },
  larches: { picture: 'aitzgorri_by_Aitzol_Berasategi', box: [0, 820, 1500, 420] },
  grass: { picture: 'GreenMeadow', box: [0, 100, 1280, 900] },
  bark: { picture: 'Kleiber_by_Lukas_Baubkus', box: [100, 200, 1900, 3000] },
  wood: { picture: 'Wood', box: [0, 900, 1900, 1000] },
  cliff: { picture: 'picosdeeuropa_by_Aitzol_Berasategi', box: [1350, 800, 1100, 560] },
  slope: { picture: 'picosdeeuropa_by_Aitzol_Berasategi', box: [1500, 1560, 1700, 800] },
  moss: { picture: 'OneStandsOut', box: [0, 0, 2560, 1600] },
  shingle: { picture: 'EveningGlow', box: [900, 1180, 1600, 400] },
  leaf: { picture: 'Blinds', box: [0, 0, 1920, 1200] },
  leaves: { picture: 'FallenLeaf', box: [100, 1050, 1000, 500] },
  sky: { picture: 'Bridge_by_Sander_Klootwijk', box: [100, 900, 1600, 900] },
  cloud: { picture: 'Storm', box: [0, 100, 1900, 600] },
  rock: { picture: 'black-canyon', box: [700, 250, 330, 230] },
  foliage: { picture: 'french-alpine-landscape', box: [200, 330, 300, 140] },
  field: { picture: 'march-pastoral', box: [60, 320, 330, 200] },
};

const CLEAN = [...CLEAN_FITTED, ...CLEAN_MEASURED];
const read = new Map<string, Promise<Raster>>();

function source(name: string): Promise<Raster> {
  let found = read.get(name);
  if (!found) {
    const clean = CLEAN.find((c) => c.name === name);
    read.set(name, (found = clean ? cleanPhotograph(clean) : photograph(name)));
  }
  return found;
}

/** A texture made as large as the picture, enlarged smoothly where it has to be; with fine grain of its own, as a sensor gives. */
async function textureOf(name: string, width: number, height: number): Promise<Float32Array> {
  const { picture, box } = TEXTURES[name];
  const from = await source(picture);
  const scale = Math.max(width / box[2], height / box[3], 640 / Math.max(640, box[2]));
  const out = new Float32Array(width * height * 3);
  const random = randomiser(width + box[0]);
  for (let y = 0, o = 0; y < height; y++) {
    const v = Math.min(from.height - 1.001, box[1] + y / scale);
    const y0 = Math.floor(v);
    for (let x = 0; x < width; x++, o += 3) {
      const u = Math.min(from.width - 1.001, box[0] + x / scale);
      const x0 = Math.floor(u);
      const [fx, fy] = [u - x0, v - y0];
      const i = (y0 * from.width + x0) * 3;
      const j = i + from.width * 3;
      const noise = scale > 1.2 ? 3 * (random() + random() - 1) : 0;
      for (let c = 0; c < 3; c++) {
        const upper = from.data[i + c] * (1 - fx) + from.data[i + 3 + c] * fx;
        const lower = from.data[j + c] * (1 - fx) + from.data[j + 3 + c] * fx;
        out[o + c] = upper * (1 - fy) + lower * fy + noise;
      }
    }
  }
  return out;
}

/** A border of two grounds: how far a place lies on the far side, in shares of the picture's height. */
type Border = (x: number, y: number) => number;

const level: Border = (_, y) => y - 0.5;
const slanted: Border = (x, y) => 0.9 * (y - 0.5) + 0.45 * (x - 0.66);
const upright: Border = (x) => x - 0.67;
const bent: Border = (x, y) => y - 0.5 - 0.09 * Math.sin(5.2 * (x - 0.3));
const steep: Border = (x, y) => 0.5 * (y - 0.5) - 0.87 * (x - 0.66);
const hill: Border = (x, y) => y - 0.42 - 0.5 * (x - 0.66) ** 2;

/** Pairs that tone on the large tells apart wherever it is taken: only with those can be measured what belongs where. */
const GROUNDS: Array<[far: string, near: string, border: Border]> = [
  ['cloud', 'meadow', level],
  ['cliff', 'leaf', slanted],
  ['sky', 'larches', bent],
  ['shingle', 'wood', upright],
  ['bark', 'leaf', steep],
  ['sky', 'rock', hill],
  ['wood', 'slope', bent],
  ['cloud', 'foliage', slanted],
];

/** A cover like the outline of a thing that stands there. */
function thing(width: number, height: number, size: number, seed: number): Uint8Array {
  const random = randomiser(seed);
  const phases = [random() * 6, random() * 6, random() * 6];
  const cover = new Uint8Array(width * height);
  const [cx, cy] = [width / 2, height / 2];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const a = Math.atan2(y - cy, x - cx);
      const r =
        (size / 2) *
        (1 +
          0.12 * Math.sin(2 * a + phases[0]) +
          0.09 * Math.sin(3 * a + phases[1]) +
          0.04 * Math.sin(7 * a + phases[2]));
      if (Math.hypot(x - cx, y - cy) < r) cover[y * width + x] = 1;
    }
  }
  return cover;
}

const rasterOf = (values: Float32Array, width: number, height: number): Raster => ({
  width,
  height,
  channels: 3,
  depth: 8,
  data: Uint8Array.from(values, (v) => Math.round(Math.min(255, Math.max(0, v)))),
});

/** Two grounds each, divided by straight, slanted and bent borders; `size` px of cover across, the picture four times as wide. */
export async function twoGrounds(size: number): Promise<Planted[]> {
  const width = Math.round((size / 160) * 640);
  const height = Math.round(0.75 * width);
  const out: Planted[] = [];
  for (const [n, [far, near, border]] of GROUNDS.entries()) {
    const a = await textureOf(far, width, height);
    const b = await textureOf(near, width, height);
    const side = new Uint8Array(width * height);
    const values = new Float32Array(a.length);
    for (let y = 0, i = 0; y < height; y++) {
      for (let x = 0; x < width; x++, i++) {
        const d = border((x + 0.5) / height, (y + 0.5) / height) * height;
        side[i] = d > 0 ? 1 : 0;
        // As sharp as the lens draws it.
        const t = Math.min(1, Math.max(0, d + 0.5));
        for (let c = 0; c < 3; c++) values[3 * i + c] = a[3 * i + c] * (1 - t) + b[3 * i + c] * t;
      }
    }
    out.push({
      name: `${far} / ${near}`,
      truth: rasterOf(values, width, height),
      cover: thing(width, height, 1.05 * size, n + 1),
      side,
    });
  }
  return out;
}

type Paint = (x: number, y: number) => [number, number, number];

const hash = (x: number, y: number) => {
  let t = (Math.imul(x, 374761393) + Math.imul(y, 668265263)) | 0;
  t = Math.imul(t ^ (t >>> 13), 1274126177);
  return ((t ^ (t >>> 16)) >>> 0) / 4294967296;
};
/** Smooth noise between −1 and 1. */
function noise(x: number, y: number): number {
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const [u, v] = [x - x0, y - y0];
  const [a, b] = [u * u * (3 - 2 * u), v * v * (3 - 2 * v)];
  const upper = hash(x0, y0) * (1 - a) + hash(x0 + 1, y0) * a;
  const lower = hash(x0, y0 + 1) * (1 - a) + hash(x0 + 1, y0 + 1) * a;
  return 2 * (upper * (1 - b) + lower * b) - 1;
}
const tint = (grey: number, [r, g, b]: [number, number, number]): [number, number, number] => [
  grey * r,
  grey * g,
  grey * b,
];

/** Bricks of 64 × 22 px with mortar, each of a tone of its own. */
const bricks: Paint = (x, y) => {
  const row = Math.floor(y / 22);
  const u = x + (row & 1) * 32;
  const column = Math.floor(u / 64);
  const inMortar = y - row * 22 < 3 || u - column * 64 < 3;
  const fine = 9 * noise(x / 2, y / 2) + 5 * noise(x / 7, y / 7);
  if (inMortar) return tint(188 + fine, [1, 0.98, 0.94]);
  return tint(118 + 34 * (hash(column, row) - 0.5) + fine, [1.2, 0.86, 0.72]);
};
/** A wall with windows of 46 × 64 px, 110 by 130 px apart. */
const facade: Paint = (x, y) => {
  const [u, v] = [((x % 110) + 110) % 110, ((y % 130) + 130) % 130];
  const fine = 4 * noise(x / 2, y / 2);
  const inWindow = u > 32 && u < 78 && v > 34 && v < 98;
  if (!inWindow) return tint(196 + fine - (v > 122 ? 40 : 0), [1, 0.96, 0.88]);
  const frame = u < 36 || u > 74 || v < 38 || v > 94 || Math.abs(u - 55) < 2 || Math.abs(v - 66) < 2;
  return frame ? tint(232 + fine, [1, 1, 1]) : tint(64 + fine + 18 * noise(x / 30, y / 30), [0.9, 1, 1.15]);
};
/** A lattice of bars before dark ground. */
const lattice: Paint = (x, y) => {
  const fine = 5 * noise(x / 2, y / 2);
  const a = (((x + y) % 48) + 48) % 48;
  const b = (((x - y) % 48) + 48) % 48;
  if (a < 11) return tint(206 + fine - (a < 2 ? 50 : 0), [1, 0.98, 0.92]);
  if (b < 11) return tint(186 + fine - (b < 2 ? 50 : 0), [1, 0.98, 0.92]);
  return tint(70 + fine + 25 * noise(x / 12, y / 12), [0.8, 1, 0.75]);
};
/** Planks of 38 px with grain along them. */
const planks: Paint = (x, y) => {
  const board = Math.floor(y / 38);
  const v = y - board * 38;
  if (v < 3) return tint(44 + 6 * noise(x / 3, y), [1, 0.9, 0.8]);
  const fibre = 12 * noise(x / 60 + 9 * board, y / 2.2) + 8 * noise(x / 14, y / 1.6) + 4 * noise(x / 2, y / 2);
  return tint(146 + 26 * (hash(board, 7) - 0.5) + fibre, [1.08, 0.94, 0.76]);
};
/** Two pipes down a brick wall, with their shades. */
const pipes: Paint = (x, y) => {
  for (const [at, wide] of [
    [300, 15],
    [352, 8],
  ]) {
    const d = (x - at) / wide;
    if (Math.abs(d) <= 1)
      return tint(90 + 110 * Math.sqrt(1 - d * d) * (0.6 + 0.4 * d) + 4 * noise(x / 2, y / 2), [0.94, 1, 1.02]);
    if (d > 1 && d < 1.9) {
      const [r, g, b] = bricks(x, y);
      return [0.6 * r, 0.6 * g, 0.6 * b];
    }
  }
  return bricks(x, y);
};
/** A wall that runs away to the right. */
const away =
  (paint: Paint, strength: number): Paint =>
  (x, y) => {
    const w = 1 + strength * x;
    return paint((1.15 * x) / w + 200, (y - 230) * (1 / w) * 1.15 + 260);
  };

const STRUCTURES: Array<[string, Paint]> = [
  ['lattice', lattice],
  ['façade', facade],
  ['façade in perspective', away(facade, -0.0006)],
  ['bricks', bricks],
  ['bricks in perspective', away(bricks, -0.0006)],
  ['planks', planks],
  ['pipes on bricks', pipes],
];

/** Rendered regular structure; `size` px of cover across, all in proportion. */
export function structures(size: number): Planted[] {
  const scale = size / 160;
  const width = Math.round(scale * 640);
  const height = Math.round(scale * 480);
  const out: Planted[] = [];
  STRUCTURES.forEach(([name, paint], n) => {
    const values = new Float32Array(width * height * 3);
    const random = randomiser(n + 11);
    for (let y = 0, i = 0; y < height; y++) {
      for (let x = 0; x < width; x++, i += 3) {
        // Four samples a pixel, and a sensor's grain.
        const grain = 2.5 * (random() + random() - 1);
        for (const [dx, dy] of [
          [0.25, 0.25],
          [0.75, 0.25],
          [0.25, 0.75],
          [0.75, 0.75],
        ]) {
          const [r, g, b] = paint((x + dx) / scale, (y + dy) / scale);
          values[i] += r / 4;
          values[i + 1] += g / 4;
          values[i + 2] += b / 4;
        }
        for (let c = 0; c < 3; c++) values[i + c] += grain;
      }
    }
    out.push({ name, truth: rasterOf(values, width, height), cover: thing(width, height, 1.03 * size, n + 21) });
  });
  return out;
}

const planeOf = (data: ArrayLike<number>, c: number) =>
  Float32Array.from({ length: data.length / 3 }, (_, i) => data[3 * i + c]);

/** What is measured of a fill over two grounds. */
export interface GroundFigures {
  /** share of the pixels inside, away from the true border, whose tone is that of the ground that belongs there, % */
  right: number;
  /** share of the pixels inside whose tone lies between the two grounds, % */
  mixed: number;
  /** mean distance of the border found from the true one, px at a cover of 160 px across */
  border: number;
}

/** Share of the way from one ground's tone to the other's within which a tone belongs to neither. */
const BETWEEN = [0.3, 0.7];

/**
 * Measures by tone on the large: a blur of 3.4 px (at a cover of 160 px) along the axis on which the two grounds differ most
 * beside the cover, each with its own tone around the place.
 */
export function groundFigures({ truth, cover, side }: Planted, data: ArrayLike<number>, size: number): GroundFigures {
  const { width, height } = truth;
  const unit = size / 160;
  const soft = [0, 1, 2].map((c) => blur(planeOf(data, c), width, height, 3.4 * unit));
  const real = [0, 1, 2].map((c) => blur(planeOf(truth.data, c), width, height, 3.4 * unit));
  // Tone of each ground, from the truth, away from the border and over the whole neighbourhood.
  const inner = blur(
    Float32Array.from(side!, (s) => s),
    width,
    height,
    6 * unit,
  );
  const mean = [0, 1].map((s) => {
    const sum = [0, 0, 0];
    let n = 0;
    for (let i = 0; i < cover.length; i++) {
      if (side![i] !== s || (s ? inner[i] < 0.98 : inner[i] > 0.02)) continue;
      const [x, y] = [(i % width) / width, Math.floor(i / width) / height];
      if (Math.abs(x - 0.5) > 0.25 || Math.abs(y - 0.5) > 0.33) continue;
      for (let c = 0; c < 3; c++) sum[c] += real[c][i];
      n++;
    }
    return sum.map((v) => v / n);
  });
  const axis = mean[1].map((v, c) => v - mean[0][c]);
  const length = axis.reduce((a, v) => a + v * v, 0);
  const shareOf = (planes: Float32Array[], i: number) =>
    axis.reduce((a, v, c) => a + v * (planes[c][i] - mean[0][c]), 0) / length;
  let [right, mixed, inside, away, wrongArea] = [0, 0, 0, 0, 0];
  let crossing = 0;
  for (let i = 0; i < cover.length; i++) {
    if (!cover[i]) continue;
    inside++;
    const t = shareOf(soft, i);
    if (t > BETWEEN[0] && t < BETWEEN[1]) mixed++;
    if ((t > 0.5 ? 1 : 0) !== side![i]) wrongArea++;
    if (side![i] !== side![i + 1] || side![i] !== side![i + width]) crossing++;
    if (inner[i] > 0.1 && inner[i] < 0.9) continue;
    away++;
    if ((t > 0.5 ? 1 : 0) === side![i]) right++;
  }
  // An area on the wrong side, over the border's length, is its mean distance.
  return {
    right: (100 * right) / away,
    mixed: (100 * mixed) / inside,
    border: wrongArea / Math.max(1, crossing) / unit,
  };
}

/** Strong edges of luma: where its slope over 1 px after a slight blur is a maximum across itself. */
function edgesOf(data: ArrayLike<number>, width: number, height: number, sigma: number): Uint8Array {
  const luma = Float32Array.from(
    { length: width * height },
    (_, i) => 0.2126 * data[3 * i] + 0.7152 * data[3 * i + 1] + 0.0722 * data[3 * i + 2],
  );
  const soft = blur(luma, width, height, sigma);
  const out = new Uint8Array(width * height);
  const slope = new Float32Array(width * height);
  const dir = new Uint8Array(width * height);
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const gx = soft[i + 1] - soft[i - 1];
      const gy = soft[i + width] - soft[i - width];
      slope[i] = Math.hypot(gx, gy) * sigma;
      dir[i] = Math.round((Math.atan2(gy, gx) / Math.PI) * 4 + 8) % 4;
    }
  }
  const steps = [1, width + 1, width, width - 1];
  for (let y = 2; y < height - 2; y++) {
    for (let x = 2; x < width - 2; x++) {
      const i = y * width + x;
      const s = steps[dir[i]];
      if (slope[i] > 22 && slope[i] >= slope[i + s] && slope[i] >= slope[i - s]) out[i] = 1;
    }
  }
  return out;
}

/** Share of the truth's edges inside the cover that the fill has within 2 px (at a cover of 160 px), %. */
export function edgesFound({ truth, cover }: Planted, data: ArrayLike<number>, size: number): number {
  const { width, height } = truth;
  const unit = size / 160;
  const real = edgesOf(truth.data, width, height, 1.5 * unit);
  const found = edgesOf(data, width, height, 1.5 * unit);
  const reach = Math.round(2 * unit);
  let [all, met] = [0, 0];
  for (let y = reach; y < height - reach; y++) {
    for (let x = reach; x < width - reach; x++) {
      const i = y * width + x;
      if (!cover[i] || !real[i]) continue;
      all++;
      let hit = false;
      for (let v = -reach; v <= reach && !hit; v++)
        for (let u = -reach; u <= reach && !hit; u++) hit = found[i + v * width + u] === 1;
      if (hit) met++;
    }
  }
  return (100 * met) / Math.max(1, all);
}
