import type { Point } from '../../mask/shapes.ts';
import { colourChannels, fullScale, type Raster } from '../../raster/raster.ts';

/** What is read of a picture: its luma, or one of its channels. */
export type Channel = 'luma' | 0 | 1 | 2;

/** Luma of a raster on the 8-bit scale at any place in px; see {@link channelReader}. */
export const lumaReader = (picture: Raster): ((x: number, y: number) => number) => channelReader(picture, 'luma');

/** A channel of a raster on the 8-bit scale at any place in px (pixel centres at .5), bilinear; beyond the edge it repeats. */
export function channelReader(picture: Raster, channel: Channel): (x: number, y: number) => number {
  const { width, height, channels, data } = picture;
  const scale = 255 / fullScale(picture.depth);
  const grey = colourChannels(channels) === 1;
  // One channel as it is, or three that are weighed.
  const first = channel === 'luma' ? 0 : channel;
  const [one, two, three] =
    channel === 'luma' && !grey ? [0.2126, 0.7152, 0.0722].map((w) => w * scale) : [scale, 0, 0];
  const luma = two > 0;
  return (x, y) => {
    const u = Math.min(width - 1, Math.max(0, x - 0.5));
    const v = Math.min(height - 1, Math.max(0, y - 0.5));
    const x0 = Math.floor(u);
    const y0 = Math.floor(v);
    const fx = u - x0;
    const fy = v - y0;
    const i = (y0 * width + x0) * channels + first;
    const right = fx > 0 ? channels : 0;
    const below = fy > 0 ? width * channels : 0;
    const a = (1 - fx) * (1 - fy);
    const b = fx * (1 - fy);
    const c = (1 - fx) * fy;
    const d = fx * fy;
    const j = i + right;
    const k = i + below;
    const l = k + right;
    const sum = one * (a * data[i] + b * data[j] + c * data[k] + d * data[l]);
    if (!luma) return sum;
    return (
      sum +
      two * (a * data[i + 1] + b * data[j + 1] + c * data[k + 1] + d * data[l + 1]) +
      three * (a * data[i + 2] + b * data[j + 2] + c * data[k + 2] + d * data[l + 2])
    );
  };
}

/** A band of the picture laid straight: rows go along it, columns across. */
export interface StraightenedBand {
  /** rows along the band */
  length: number;
  /** columns across, 2 × reach + 1 */
  width: number;
  reach: number;
  luma: Float32Array;
  /** the place of a row and of an offset across, in columns, in the picture */
  place(row: number, across: number): Point;
  /** px from row to row */
  step: number;
}

/**
 * Lays the band of `reach` columns on both sides of the line from `a` to `b` straight, with luma averaged over 3 rows.
 * @param scale px from row to row and from column to column
 */
export function straighten(
  read: (x: number, y: number) => number,
  a: Point,
  b: Point,
  reach: number,
  scale = 1,
): StraightenedBand {
  const span = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const length = Math.max(2, Math.ceil(span / scale) + 1);
  const step = span / (length - 1);
  const dx = (b[0] - a[0]) / Math.max(1e-6, span);
  const dy = (b[1] - a[1]) / Math.max(1e-6, span);
  const width = 2 * reach + 1;
  const raw = new Float32Array(length * width);
  for (let row = 0; row < length; row++) {
    const x = a[0] + dx * row * step;
    const y = a[1] + dy * row * step;
    for (let k = 0; k < width; k++) {
      const t = (k - reach) * scale;
      // Cells of more than 2 px are read twice, or a thin strand would fall between two of them.
      raw[row * width + k] =
        scale > 2
          ? (read(x - dy * (t - scale / 4), y + dx * (t - scale / 4)) +
              read(x - dy * (t + scale / 4), y + dx * (t + scale / 4))) /
            2
          : read(x - dy * t, y + dx * t);
    }
  }
  const luma = new Float32Array(length * width);
  for (let row = 0; row < length; row++) {
    const above = Math.max(0, row - 1) * width;
    const below = Math.min(length - 1, row + 1) * width;
    for (let k = 0; k < width; k++)
      luma[row * width + k] = (raw[above + k] + raw[row * width + k] + raw[below + k]) / 3;
  }
  const place = (row: number, across: number): Point => [
    a[0] + dx * row * step - dy * across * scale,
    a[1] + dy * row * step + dx * across * scale,
  ];
  return { length, width, reach, luma, place, step };
}

/** {@link lumaReader} over a plane of luma worked out beforehand, for reading the same places many times. */
export function planeReader(width: number, height: number, luma: Float32Array): (x: number, y: number) => number {
  return (x, y) => {
    const u = Math.min(width - 1.001, Math.max(0, x - 0.5));
    const v = Math.min(height - 1.001, Math.max(0, y - 0.5));
    const x0 = u | 0;
    const y0 = v | 0;
    const fx = u - x0;
    const fy = v - y0;
    const i = y0 * width + x0;
    const upper = luma[i] + (luma[i + 1] - luma[i]) * fx;
    return upper + (luma[i + width] + (luma[i + width + 1] - luma[i + width]) * fx - upper) * fy;
  };
}
