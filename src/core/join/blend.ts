import type { Box } from '../raster/raster.ts';

/** Scales over which frames go over into each other: each is twice as coarse as the one before. */
export const SCALES = 6;
const SIDE = 2 ** SCALES;

/** A frame as it lies on the canvas. */
export interface Layer {
  /** px of the canvas, its sides multiples of {@link SIDE} */
  box: Box;
  /** 1 where it shows something */
  valid: Uint8Array;
  /** 1 where the canvas is taken from it */
  own: Uint8Array;
}

/** The smallest box around another whose places and sides are multiples of what is halved. */
export function roundedBox({ x, y, width, height }: Box): Box {
  const [left, top] = [Math.floor(x / SIDE) * SIDE, Math.floor(y / SIDE) * SIDE];
  return {
    x: left,
    y: top,
    width: Math.ceil((x + width - left) / SIDE) * SIDE,
    height: Math.ceil((y + height - top) / SIDE) * SIDE,
  };
}

interface Level {
  width: number;
  height: number;
  data: Float32Array;
}

const KERNEL = [1 / 16, 4 / 16, 6 / 16, 4 / 16, 1 / 16];

/** Half as large, each px a weighted mean of 5 × 5 (1 4 6 4 1). Beyond the plane there is nothing. */
function halved({ width, height, data }: Level): Level {
  const [w, h] = [width >> 1, height >> 1];
  const across = new Float32Array(w * height);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    for (let x = 0, o = y * w, i = row; x < w; x++, o++, i += 2) {
      const before = x > 0 ? data[i - 2] + 4 * data[i - 1] : 0;
      const after = 4 * data[i + 1] + (x + 1 < w ? data[i + 2] : 0);
      across[o] = (before + 6 * data[i] + after) / 16;
    }
  }
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let k = -2; k <= 2; k++) {
      const v = 2 * y + k;
      if (v < 0 || v >= height) continue;
      const weight = KERNEL[k + 2];
      for (let x = 0, o = y * w, i = v * w; x < w; x++) out[o++] += weight * across[i++];
    }
  return { width: w, height: h, data: out };
}

/** Twice as large again. */
function doubled({ width, height, data }: Level): Level {
  const [w, h] = [2 * width, 2 * height];
  const across = new Float32Array(w * height);
  for (let y = 0; y < height; y++)
    for (let u = 0, i = y * width, o = y * w; u < width; u++, i++, o += 2) {
      const right = u + 1 < width ? data[i + 1] : 0;
      across[o] = ((u > 0 ? data[i - 1] : 0) + 6 * data[i] + right) / 8;
      across[o + 1] = (data[i] + right) / 2;
    }
  const out = new Float32Array(w * h);
  for (let v = 0; v < height; v++) {
    const [above, here, below] = [(v - 1) * w, v * w, (v + 1) * w];
    for (let x = 0, o = 2 * v * w; x < w; x++, o++) {
      const next = v + 1 < height ? across[below + x] : 0;
      out[o] = ((v > 0 ? across[above + x] : 0) + 6 * across[here + x] + next) / 8;
      out[o + w] = (across[here + x] + next) / 2;
    }
  }
  return { width: w, height: h, data: out };
}

function times(a: Float32Array, b: Float32Array): Float32Array {
  const out = new Float32Array(a.length);
  for (let i = 0; i < out.length; i++) out[i] = a[i] * b[i];
  return out;
}

/** Levels of a plane where it is known, evened by how much of it is: what is beyond does not darken what is within. */
function levelsOf(first: Level, valid: readonly Level[]): Level[] {
  const levels = [first];
  for (let n = 0; n < SCALES; n++) {
    const { width, height, data } = levels[n];
    const weight = valid[n].data;
    const next = halved({ width, height, data: times(data, weight) });
    const sum = valid[n + 1].data;
    for (let i = 0; i < next.data.length; i++) next.data[i] = sum[i] > 1e-6 ? next.data[i] / sum[i] : 0;
    levels.push(next);
  }
  return levels;
}

/** What a level has more than the coarser one. */
function finer({ data }: Level, coarse: Level, coarseValid: Level): Float32Array {
  const up = doubled({ ...coarse, data: times(coarse.data, coarseValid.data) }).data;
  const sum = doubled(coarseValid).data;
  for (let i = 0; i < up.length; i++) up[i] = sum[i] > 1e-6 ? data[i] - up[i] / sum[i] : 0;
  return up;
}

function pyramid(first: Level): Level[] {
  const out = [first];
  for (let n = 0; n < SCALES; n++) out.push(halved(out[n]));
  return out;
}

/** Blends frames of one canvas, channel by channel. Source: Burt & Adelson, "A Multiresolution Spline", 1983. */
export class Blend {
  private readonly masks: Array<{ box: Box; valid: Level[]; own: Level[] }>;
  private readonly sums: Level[];

  /** @param canvas box around all layers, its sides multiples of what is halved, see {@link roundedBox} */
  constructor(
    private readonly canvas: Box,
    layers: readonly Layer[],
  ) {
    this.masks = layers.map(({ box, valid, own }) => {
      const level = (plane: Uint8Array): Level => ({
        width: box.width,
        height: box.height,
        data: Float32Array.from(plane),
      });
      return { box, valid: pyramid(level(valid)), own: pyramid(level(own)) };
    });
    this.sums = this.empty();
    for (const { box, own, valid } of this.masks)
      own.forEach((level, n) => {
        // What a frame does not show it has no part in.
        for (let i = 0; i < level.data.length; i++) if (valid[n].data[i] <= 1e-6) level.data[i] = 0;
        this.add(this.sums[n], level, box, n, level.data);
      });
  }

  private empty(): Level[] {
    return Array.from({ length: SCALES + 1 }, (_, n) => {
      const [width, height] = [this.canvas.width >> n, this.canvas.height >> n];
      return { width, height, data: new Float32Array(width * height) };
    });
  }

  private add(
    to: Level,
    { width, height }: Level,
    box: Box,
    n: number,
    values: Float32Array,
    weights?: Float32Array,
  ): void {
    const [x, y] = [(box.x - this.canvas.x) >> n, (box.y - this.canvas.y) >> n];
    for (let v = 0, i = 0; v < height; v++)
      for (let u = 0, o = (y + v) * to.width + x; u < width; u++, i++, o++)
        to.data[o] += weights ? weights[i] * values[i] : values[i];
  }

  /** One channel of all layers, in their order, as the whole canvas. */
  channel(planes: Iterable<Float32Array>): Float32Array {
    const all = this.empty();
    let k = 0;
    for (const data of planes) {
      const { box, valid, own } = this.masks[k++];
      const levels = levelsOf({ width: box.width, height: box.height, data }, valid);
      for (let n = 0; n <= SCALES; n++) {
        const values = n < SCALES ? finer(levels[n], levels[n + 1], valid[n + 1]) : levels[n].data;
        this.add(all[n], levels[n], box, n, values, own[n].data);
      }
    }
    for (let n = SCALES; n >= 0; n--) {
      const [level, sums] = [all[n], this.sums[n].data];
      for (let i = 0; i < level.data.length; i++) level.data[i] = sums[i] > 1e-6 ? level.data[i] / sums[i] : 0;
      if (n === SCALES) continue;
      const coarse = all[n + 1];
      const known: Level = { ...coarse, data: new Float32Array(coarse.data.length) };
      for (let i = 0; i < known.data.length; i++) known.data[i] = this.sums[n + 1].data[i] > 1e-6 ? 1 : 0;
      const up = doubled(coarse).data;
      const weight = doubled(known).data;
      for (let i = 0; i < level.data.length; i++)
        if (sums[i] > 1e-6 && weight[i] > 1e-6) level.data[i] += up[i] / weight[i];
    }
    return all[0].data;
  }
}
