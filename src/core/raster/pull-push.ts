import { colourChannels, type Raster } from './raster.ts';

/** One resolution: means of what is known, and how much of each pixel is known. */
interface Level {
  width: number;
  height: number;
  values: Float32Array;
  weight: Float32Array;
}

/** Half the size; a pixel is known as far as the four it stands for are, at most wholly. */
function pulled({ width, height, values, weight }: Level, colours: number): Level {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const out = { width: w, height: h, values: new Float32Array(w * h * colours), weight: new Float32Array(w * h) };
  for (let y = 0; y < height; y++)
    for (let x = 0, i = y * width; x < width; x++, i++) {
      if (!weight[i]) continue;
      const o = (y >> 1) * w + (x >> 1);
      out.weight[o] += weight[i];
      for (let c = 0; c < colours; c++) out.values[o * colours + c] += weight[i] * values[i * colours + c];
    }
  for (let o = 0; o < w * h; o++) {
    if (!out.weight[o]) continue;
    for (let c = 0; c < colours; c++) out.values[o * colours + c] /= out.weight[o];
    out.weight[o] = Math.min(1, out.weight[o]);
  }
  return out;
}

/** Puts what a coarser resolution says, bilinear, where a finer one knows less than all. */
function push(fine: Level, coarse: Level, colours: number): void {
  const { width, height, values, weight } = fine;
  for (let y = 0; y < height; y++) {
    const v = Math.max(0, (y + 0.5) / 2 - 0.5);
    const y0 = Math.min(coarse.height - 1, v | 0);
    const y1 = Math.min(coarse.height - 1, y0 + 1);
    const fy = v - y0;
    for (let x = 0, i = y * width; x < width; x++, i++) {
      if (weight[i] >= 1) continue;
      const u = Math.max(0, (x + 0.5) / 2 - 0.5);
      const x0 = Math.min(coarse.width - 1, u | 0);
      const x1 = Math.min(coarse.width - 1, x0 + 1);
      const fx = u - x0;
      for (let c = 0; c < colours; c++) {
        const at = (px: number, py: number) => coarse.values[(py * coarse.width + px) * colours + c];
        const upper = at(x0, y0) * (1 - fx) + at(x1, y0) * fx;
        const lower = at(x0, y1) * (1 - fx) + at(x1, y1) * fx;
        const own = i * colours + c;
        values[own] = weight[i] * values[own] + (1 - weight[i]) * (upper * (1 - fy) + lower * fy);
      }
    }
  }
}

/**
 * Puts a smooth continuation of what is around in place of unknown pixels, whatever they were; all others keep every bit.
 * Source: pull-push as in Gortler et al., "The Lumigraph", 1996.
 * @param unknown 1 where pixels are replaced
 */
export function withoutUnknown(picture: Raster, unknown: Uint8Array): Raster {
  const { width, height, channels } = picture;
  const colours = colourChannels(channels);
  const weight = Float32Array.from(unknown, (v) => (v ? 0 : 1));
  const values = new Float32Array(width * height * colours);
  for (let i = 0; i < unknown.length; i++)
    if (!unknown[i]) for (let c = 0; c < colours; c++) values[i * colours + c] = picture.data[i * channels + c];
  const levels: Level[] = [{ width, height, values, weight }];
  while (levels[0].width > 1 || levels[0].height > 1) levels.unshift(pulled(levels[0], colours));
  for (let n = 1; n < levels.length; n++) push(levels[n], levels[n - 1], colours);
  const out = { ...picture, data: picture.data.slice() };
  for (let i = 0; i < unknown.length; i++)
    if (unknown[i]) for (let c = 0; c < colours; c++) out.data[i * channels + c] = Math.round(values[i * colours + c]);
  return out;
}
