import { withKernels } from '../kernels/memory.ts';
import { colourChannels, intersect, isEmpty, type Box, type Raster } from './raster.ts';

/** (x, y) → (a x + b y + e, c x + d y + f), in px with pixel centres at .5. */
export interface Affine {
  a: number;
  b: number;
  c: number;
  d: number;
  e: number;
  f: number;
}

/** Colour of a box, one float a sample (interleaved, `colours` a pixel, in the raster's own range). */
export interface Sampled {
  values: Float32Array;
  colours: 1 | 3;
  /** 1 where the place asked for lies in the picture */
  valid: Uint8Array;
}

/** Applies a map to a place. */
export const applyAffine = (m: Affine, x: number, y: number): [number, number] => [
  m.a * x + m.b * y + m.e,
  m.c * x + m.d * y + m.f,
];

/** Whether a map takes pixel centres to pixel centres, so that samples can be copied as they are. */
export function isWhole(m: Affine): boolean {
  const unit = (p: number, q: number) => (Math.abs(p) === 1 && q === 0) || (p === 0 && Math.abs(q) === 1);
  if (!unit(m.a, m.b) || !unit(m.c, m.d)) return false;
  const [x, y] = applyAffine(m, 0.5, 0.5);
  return Number.isInteger(x - 0.5) && Number.isInteger(y - 0.5);
}

/** px of the source on each side that {@link sampleAffine} reads for a place. */
const supportOf = (m: Affine): number => 2 * Math.max(1, Math.sqrt(Math.abs(m.a * m.d - m.b * m.c))) + 1;

/** What {@link sampleAffine} reads of a picture of the given size for a box of targets. */
export function sourceBox(m: Affine, target: Box, width: number, height: number): Box {
  const r = isWhole(m) ? 0 : supportOf(m);
  const corners = [
    applyAffine(m, target.x, target.y),
    applyAffine(m, target.x + target.width, target.y),
    applyAffine(m, target.x, target.y + target.height),
    applyAffine(m, target.x + target.width, target.y + target.height),
  ];
  const xs = corners.map((p) => p[0]);
  const ys = corners.map((p) => p[1]);
  const x = Math.floor(Math.min(...xs) - r);
  const y = Math.floor(Math.min(...ys) - r);
  return intersect(
    { x, y, width: Math.ceil(Math.max(...xs) + r) - x, height: Math.ceil(Math.max(...ys) + r) - y },
    { x: 0, y: 0, width, height },
  );
}

/**
 * Cubic convolution weight at distance `t` ≥ 0 (Catmull–Rom, a = −1/2).
 * Source: Keys, "Cubic Convolution Interpolation for Digital Image Processing", 1981.
 */
export function cubic(t: number): number {
  if (t < 1) return (1.5 * t - 2.5) * t * t + 1;
  if (t < 2) return ((-0.5 * t + 2.5) * t - 4) * t + 2;
  return 0;
}

/** Samples a picture at places that `place` writes for each pixel, only where `wanted` is not 0; see {@link sampleAffine}. */
export function sampleAt(
  source: Raster,
  at: Box,
  size: { width: number; height: number },
  target: Box,
  place: (x: number, y: number, out: Float64Array) => void,
  stretch: number,
  wanted?: ArrayLike<number>,
): Sampled {
  const { width, height } = target;
  const colours = colourChannels(source.channels);
  const valid = new Uint8Array(width * height);
  const where = new Float64Array(2);
  const values = withKernels((k) => {
    const from = k.put(source.data);
    const places = k.reserve(width * 16);
    const asked = k.reserve(width);
    const out = k.reserve(width * height * colours * 4);
    k.f32(out, width * height * colours).fill(0);
    const row = k.f64(places, width * 2);
    for (let y = 0; y < height; y++) {
      const inside = valid.subarray(y * width, (y + 1) * width);
      for (let x = 0; x < width; x++) {
        if (wanted && !wanted[y * width + x]) continue;
        place(target.x + x + 0.5, target.y + y + 0.5, where);
        const px = where[0];
        const py = where[1];
        if (px < 0 || py < 0 || px > size.width || py > size.height) continue;
        inside[x] = 1;
        row[2 * x] = px - 0.5 - at.x;
        row[2 * x + 1] = py - 0.5 - at.y;
      }
      k.u8(asked, width).set(inside);
      k.run.cubicAt(
        from,
        source.width,
        source.height,
        source.channels,
        source.data.BYTES_PER_ELEMENT,
        colours,
        places,
        asked,
        width,
        stretch,
        out + y * width * colours * 4,
      );
    }
    return k.f32(out, width * height * colours).slice();
  });
  return { values, colours, valid };
}

/**
 * Takes the colour for each pixel of `target` from where the map sends its centre. Maps that send centres to centres copy
 * samples as they are; others use cubic convolution, stretched where the map shrinks the picture, so that nothing aliases.
 *
 * @param read reads a box of the picture
 * @param size the picture
 * @param wanted one a pixel of `target`; where it is 0 nothing need be sampled
 */
export function sampleAffine(
  read: (box: Box) => Raster,
  size: { width: number; height: number },
  m: Affine,
  target: Box,
  wanted?: ArrayLike<number>,
): Sampled {
  const box = sourceBox(m, target, size.width, size.height);
  if (isEmpty(box)) {
    const colours = colourChannels(read({ x: 0, y: 0, width: 1, height: 1 }).channels);
    const count = target.width * target.height;
    return { values: new Float32Array(count * colours), colours, valid: new Uint8Array(count) };
  }
  const source = read(box);
  if (!isWhole(m)) {
    const stretch = Math.max(1, Math.sqrt(Math.abs(m.a * m.d - m.b * m.c)));
    const place = (x: number, y: number, out: Float64Array) => {
      out[0] = m.a * x + m.b * y + m.e;
      out[1] = m.c * x + m.d * y + m.f;
    };
    return sampleAt(source, box, size, target, place, stretch, wanted);
  }
  const colours = colourChannels(source.channels);
  const values = new Float32Array(target.width * target.height * colours);
  const valid = new Uint8Array(target.width * target.height);
  for (let y = 0, i = 0; y < target.height; y++) {
    for (let x = 0; x < target.width; x++, i++) {
      const tx = target.x + x + 0.5;
      const ty = target.y + y + 0.5;
      const u = Math.floor(m.a * tx + m.b * ty + m.e) - box.x;
      const v = Math.floor(m.c * tx + m.d * ty + m.f) - box.y;
      if (u < 0 || v < 0 || u >= box.width || v >= box.height) continue;
      valid[i] = 1;
      const from = (v * box.width + u) * source.channels;
      for (let c = 0; c < colours; c++) values[i * colours + c] = source.data[from + c];
    }
  }
  return { values, colours, valid };
}
