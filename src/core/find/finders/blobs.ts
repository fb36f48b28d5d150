import { colourChannels, fullScale, type Box, type Raster } from '../../raster/raster.ts';
import { outlineOf, simplified } from '../../mask/outline.ts';
import type { Shape } from '../../mask/shapes.ts';
import { quantile } from '../../raster/luma.ts';
import { labOf } from '../../tone/lab.ts';

/** A picture made small for looking at it from afar, in CIELAB (stored values taken as sRGB). */
export interface SmallPicture {
  width: number;
  height: number;
  /** px of the picture to one of these */
  scale: number;
  L: Float32Array;
  a: Float32Array;
  b: Float32Array;
}

/** Averages a picture down until its long side is at most `longSide` px. */
export function smallPicture(picture: Raster, longSide: number): SmallPicture {
  const scale = Math.max(1, Math.max(picture.width, picture.height) / longSide);
  const width = Math.max(1, Math.round(picture.width / scale));
  const height = Math.max(1, Math.round(picture.height / scale));
  const { channels, data } = picture;
  const grey = colourChannels(channels) === 1;
  const unit = 255 / fullScale(picture.depth);
  const out: SmallPicture = {
    width,
    height,
    scale,
    L: new Float32Array(width * height),
    a: new Float32Array(width * height),
    b: new Float32Array(width * height),
  };
  // More than eight samples a side change nothing that is seen from afar.
  const step = Math.max(1, Math.floor(scale / 8));
  for (let y = 0, i = 0; y < height; y++) {
    const y0 = Math.floor((y * picture.height) / height);
    const y1 = Math.max(y0 + 1, Math.floor(((y + 1) * picture.height) / height));
    for (let x = 0; x < width; x++, i++) {
      const x0 = Math.floor((x * picture.width) / width);
      const x1 = Math.max(x0 + 1, Math.floor(((x + 1) * picture.width) / width));
      let [r, g, b, n] = [0, 0, 0, 0];
      for (let v = y0; v < y1; v += step) {
        for (let u = x0; u < x1; u += step, n++) {
          const p = (v * picture.width + u) * channels;
          r += data[p];
          g += data[grey ? p : p + 1];
          b += data[grey ? p : p + 2];
        }
      }
      const lab = labOf((r / n) * unit, (g / n) * unit, (b / n) * unit);
      out.L[i] = lab[0];
      out.a[i] = lab[1];
      out.b[i] = lab[2];
    }
  }
  return out;
}

/** A connected group of marked pixels. */
export interface Group {
  box: Box;
  area: number;
  /** mask of the box */
  mask: Uint8Array;
}

/** The 8-connected groups of non-zero pixels, largest first. */
export function groupsOf(marked: Uint8Array, width: number, height: number): Group[] {
  const seen = new Uint8Array(marked.length);
  const out: Group[] = [];
  for (let start = 0; start < marked.length; start++) {
    if (!marked[start] || seen[start]) continue;
    const pixels: number[] = [];
    const stack = [start];
    seen[start] = 1;
    let [x0, y0, x1, y1] = [width, height, 0, 0];
    while (stack.length) {
      const i = stack.pop()!;
      pixels.push(i);
      const x = i % width;
      const y = (i - x) / width;
      x0 = Math.min(x0, x);
      x1 = Math.max(x1, x);
      y0 = Math.min(y0, y);
      y1 = Math.max(y1, y);
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const j = v * width + u;
          if (!marked[j] || seen[j]) continue;
          seen[j] = 1;
          stack.push(j);
        }
      }
    }
    const box = { x: x0, y: y0, width: x1 - x0 + 1, height: y1 - y0 + 1 };
    const mask = new Uint8Array(box.width * box.height);
    for (const i of pixels) mask[(Math.floor(i / width) - y0) * box.width + (i % width) - x0] = 1;
    out.push({ box, area: pixels.length, mask });
  }
  return out.sort((a, b) => b.area - a.area);
}

/** A group's outline on the picture that is `scale` times as large, cut to it. */
export function outlineShape(group: Group, scale: number, picture: { width: number; height: number }): Shape {
  const points = outlineOf(group.mask, group.box.width, group.box.height, group.box.x, group.box.y);
  const line = scale > 1 ? simplified(points, 0.8) : points;
  return {
    op: 'add',
    kind: 'outline',
    points: line.map(([x, y]) => [Math.min(picture.width, x * scale), Math.min(picture.height, y * scale)]),
  };
}

export const scaledBox = (box: Box, scale: number, picture: { width: number; height: number }): Box => {
  const x = Math.floor(box.x * scale);
  const y = Math.floor(box.y * scale);
  return {
    x,
    y,
    width: Math.min(picture.width, Math.ceil((box.x + box.width) * scale)) - x,
    height: Math.min(picture.height, Math.ceil((box.y + box.height) * scale)) - y,
  };
};

/** Fraction of the rim of a small picture that has about the lightness of paper, and that lightness. */
export function paperOf({ width, height, L }: SmallPicture): { share: number; lightness: number } {
  const rim: number[] = [];
  for (let x = 0; x < width; x++) rim.push(L[x], L[(height - 1) * width + x]);
  for (let y = 0; y < height; y++) rim.push(L[y * width], L[y * width + width - 1]);
  const sorted = rim.slice().sort((p, q) => p - q);
  const lightness = sorted[Math.floor(sorted.length * 0.6)];
  const share = rim.filter((v) => Math.abs(v - lightness) < 5).length / rim.length;
  return { share: lightness > 70 ? share : 0, lightness };
}

/** Whether a picture looks like a scanned print: a rim of paper, or hardly any colour but one tint. */
export function isPrint(small: SmallPicture): boolean {
  if (paperOf(small).share > 0.5) return true;
  const chroma = Float32Array.from(small.a, (v, i) => Math.hypot(v, small.b[i]));
  const mean = (list: Float32Array) => list.reduce((s, v) => s + v, 0) / list.length;
  const [a, b] = [mean(small.a), mean(small.b)];
  return (
    quantile(chroma, 0.95) < 30 &&
    quantile(
      Float32Array.from(small.a, (v, i) => Math.hypot(v - a, small.b[i] - b)),
      0.9,
    ) < 7
  );
}
