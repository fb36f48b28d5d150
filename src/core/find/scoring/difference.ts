import { boundsOfShapes, rasterise, type Shape } from '../../mask/shapes.ts';
import { colourChannels, fullScale, growWithin, isEmpty, type Raster } from '../../raster/raster.ts';
import { ciede2000, labOf, type Lab } from '../../tone/lab.ts';

/** Most pixels looked at of a cover and its rim. */
const SAMPLES = 4000;

/** CIEDE2000 between what a cover holds and the rim around it, both on average; stored values taken as sRGB. */
export function differenceOf(picture: Raster, shapes: readonly Shape[]): number {
  const box = boundsOfShapes(shapes, picture.width, picture.height);
  if (isEmpty(box)) return 0;
  const rim = Math.max(3, Math.min(24, Math.round(Math.min(box.width, box.height) * 0.3)));
  const frame = growWithin(box, rim, picture.width, picture.height);
  const mask = rasterise(shapes, frame).data;
  const step = Math.max(1, Math.floor(Math.sqrt((frame.width * frame.height) / SAMPLES / 4)));
  const grey = colourChannels(picture.channels) === 1;
  const unit = 255 / fullScale(picture.depth);
  const sums = [
    [0, 0, 0, 0],
    [0, 0, 0, 0],
  ];
  const near = (u: number, v: number) => {
    for (const d of [rim, Math.max(1, rim >> 1)])
      for (const [du, dv] of [
        [d, 0],
        [-d, 0],
        [0, d],
        [0, -d],
      ]) {
        const [x, y] = [u + du, v + dv];
        if (x >= 0 && y >= 0 && x < frame.width && y < frame.height && mask[y * frame.width + x]) return true;
      }
    return false;
  };
  const wide = step > 1 ? step : 1;
  for (let v = 0; v < frame.height; v += wide) {
    for (let u = 0; u < frame.width; u += wide) {
      const inside = mask[v * frame.width + u] !== 0;
      if (!inside && !near(u, v)) continue;
      const p = ((frame.y + v) * picture.width + frame.x + u) * picture.channels;
      const sum = sums[inside ? 0 : 1];
      for (let c = 0; c < 3; c++) sum[c] += picture.data[p + (grey ? 0 : c)];
      sum[3]++;
    }
  }
  if (!sums[0][3] || !sums[1][3]) return 0;
  const [a, b] = sums.map(([r, g, bl, n]): Lab => labOf((r / n) * unit, (g / n) * unit, (bl / n) * unit));
  return ciede2000(a, b);
}
