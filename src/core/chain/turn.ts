import type { Point } from '../mask/shapes.ts';
import { applyAffine, sampleAffine, type Affine } from '../raster/affine.ts';
import { colourChannels, createRaster, fullScale, hasAlpha, type Box, type Raster } from '../raster/raster.ts';
import { fillGap, type Pixels, type Step } from './step.ts';

/** How a picture is turned, and what of it is kept then. */
export interface Turn {
  /** degrees by which it leans clockwise: it is turned back by as many */
  degrees: number;
  /** what stays where it is, px of the base */
  about: Point;
  /** what is kept of the turned picture, px; all of it where nothing is said */
  crop: Box | null;
}

/** Rows that are sampled at a time. */
const ROWS = 256;

/** Where a place of the turned picture comes from, or (`back`) goes to. */
function mapOf({ degrees, about: [x, y] }: Turn, back = false): Affine {
  const angle = ((back ? -degrees : degrees) * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return { a: cos, b: -sin, c: sin, d: cos, e: x - cos * x + sin * y, f: y - sin * x - cos * y };
}

/** The box around a box after a map. */
function boxAfter(m: Affine, { x, y, width, height }: Box): Box {
  const corners = [
    applyAffine(m, x, y),
    applyAffine(m, x + width, y),
    applyAffine(m, x, y + height),
    applyAffine(m, x + width, y + height),
  ];
  const [xs, ys] = [corners.map((p) => p[0]), corners.map((p) => p[1])];
  // What is a hair more than a whole px comes of the arithmetic.
  const [left, top] = [Math.floor(Math.min(...xs) + 1e-6), Math.floor(Math.min(...ys) + 1e-6)];
  return {
    x: left,
    y: top,
    width: Math.ceil(Math.max(...xs) - 1e-6) - left,
    height: Math.ceil(Math.max(...ys) - 1e-6) - top,
  };
}

/** Alpha as a picture of its own. */
function alphaOf({ width, height, channels, depth, data }: Raster): Raster {
  const out = createRaster(width, height, 1, depth);
  for (let i = 0; i < out.data.length; i++) out.data[i] = data[(i + 1) * channels - 1];
  return out;
}

/** Some rows of the turned picture. */
function strip(turn: Turn, input: Pixels, box: Box): Raster {
  const m = mapOf(turn);
  const { channels, depth } = input.kind;
  const out = fillGap(box.width, box.height, input.kind);
  // Boxes that sampling asks for begin at the picture's own corner.
  const { x: ox, y: oy, width, height } = input.extent;
  const own: Affine = { ...m, e: m.e - ox, f: m.f - oy };
  const read = (b: Box) => input.read({ ...b, x: b.x + ox, y: b.y + oy });
  const sampled = sampleAffine(read, { width, height }, own, box);
  const alpha = hasAlpha(channels) ? sampleAffine((b) => alphaOf(read(b)), { width, height }, own, box) : null;
  const colours = colourChannels(channels);
  const top = fullScale(depth);
  for (let i = 0; i < box.width * box.height; i++) {
    if (!sampled.valid[i]) continue;
    for (let c = 0; c < colours; c++)
      out.data[i * channels + c] = Math.max(0, Math.min(top, Math.round(sampled.values[i * colours + c])));
    if (alpha) out.data[(i + 1) * channels - 1] = Math.max(0, Math.min(top, Math.round(alpha.values[i])));
  }
  return out;
}

/**
 * Turn: levels the picture, and cuts it. Sampled once, by cubic convolution (see `raster/affine`); what comes from beyond the
 * picture is a gap.
 */
export function turn(spec: Turn): Step {
  const [from, to] = [mapOf(spec), mapOf(spec, true)];
  const isTurned = spec.degrees !== 0;
  return {
    extent: (input) => spec.crop ?? (isTurned ? boxAfter(to, input) : input),
    needs: (box) =>
      isTurned ? boxAfter(from, { x: box.x - 3, y: box.y - 3, width: box.width + 6, height: box.height + 6 }) : box,
    map: ([x, y]) => (isTurned ? applyAffine(to, x, y) : [x, y]),
    read(input, box) {
      if (!isTurned) return input.read(box);
      const out = createRaster(box.width, box.height, input.kind.channels, input.kind.depth);
      for (let y = 0; y < box.height; y += ROWS) {
        const rows = Math.min(ROWS, box.height - y);
        const part = strip(spec, input, { x: box.x, y: box.y + y, width: box.width, height: rows });
        out.data.set(part.data, y * box.width * out.channels);
      }
      return out;
    },
    gap(input, box) {
      if (!isTurned) return input.gap(box);
      const { extent } = input;
      const around = boxAfter(from, box);
      const gaps = input.gap(around);
      const out = new Uint8Array(box.width * box.height);
      for (let y = 0, i = 0; y < box.height; y++)
        for (let x = 0; x < box.width; x++, i++) {
          const [u, v] = applyAffine(from, box.x + x + 0.5, box.y + y + 0.5);
          const [px, py] = [Math.floor(u), Math.floor(v)];
          const isOut =
            px < extent.x || py < extent.y || px >= extent.x + extent.width || py >= extent.y + extent.height;
          out[i] = isOut || gaps?.[(py - around.y) * around.width + px - around.x] ? 1 : 0;
        }
      return out.includes(1) ? out : null;
    },
  };
}

/**
 * The largest box of a proportion within a turned box, about its middle: what a crop keeps so that no corner is a gap.
 * @param degrees of either sign, below 90
 * @param ratio width over height; that of the box itself where nothing is said
 * Source: geometry.
 */
export function largestWithin({ x, y, width, height }: Box, degrees: number, ratio = width / height): Box {
  const angle = Math.abs((degrees * Math.PI) / 180);
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  // A box w × h turned by the angle spans w cos + h sin by w sin + h cos; both must fit.
  const h = Math.min(width / (ratio * cos + sin), height / (ratio * sin + cos));
  const [w, t] = [Math.floor(h * ratio + 1e-6), Math.floor(h + 1e-6)];
  return { x: Math.ceil(x + (width - w) / 2), y: Math.ceil(y + (height - t) / 2), width: w, height: t };
}
