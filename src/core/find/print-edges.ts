import { rasterise, coverBounds, type Point, type Shape } from '../mask/shapes.ts';
import { colourChannels, fullScale, growWithin, isEmpty, type Box, type Raster } from '../raster/raster.ts';
import { robustFit } from '../raster/robust-fit.ts';
import { paperOf, smallPicture } from './finders/blobs.ts';

/** A straight edge of a print: where it lies across, px, at a place along it. */
type Line = (along: number) => number;

/** Where a print's picture ends and its margin begins, on the sides where that can be seen. */
export interface PrintEdges {
  left?: Line;
  right?: Line;
  top?: Line;
  bottom?: Line;
}

type Side = keyof PrintEdges;

/** Share of a picture's side within which its margin ends. */
const DEEP = 0.2;
/** Lines on which an edge is looked for. */
const LINES = 240;
/** px of paper that there is at least, px that are looked at beyond, and levels by which the picture departs from paper. */
const LEAST_PAPER = 8;
const BEYOND = 10;
const DEPARTS = 14;
/** px within which a place lies on the line, and share of the places that have to. */
const ON_LINE = 1.5;
const MOST_PLACES = 0.5;

const mean = (values: Float32Array) => values.reduce((s, v) => s + v, 0) / values.length;

/** Luma at steps inwards from a picture's border, on one line. */
function profileOf({ width, height, channels, depth, data }: Raster, side: Side, at: number, length: number) {
  const green = colourChannels(channels) === 3 ? 1 : 0;
  const unit = 255 / fullScale(depth);
  const out = new Float32Array(length);
  for (let n = 0; n < length; n++) {
    const x = side === 'left' ? n : side === 'right' ? width - 1 - n : at;
    const y = side === 'top' ? n : side === 'bottom' ? height - 1 - n : at;
    const o = (y * width + x) * channels;
    out[n] = unit * (0.3 * data[o] + 0.59 * data[o + green] + 0.11 * data[o + 2 * green]);
  }
  return out;
}

/** px inwards at which paper ends on a line, to a share of a px; null where it does not begin with paper or never ends. */
function endOfPaper(profile: Float32Array): number | null {
  const { length } = profile;
  let paper = mean(profile.subarray(0, LEAST_PAPER));
  for (let n = LEAST_PAPER; n + BEYOND < length; n++) {
    const inside = mean(profile.subarray(n + 2, n + BEYOND));
    if (Math.abs(inside - paper) < DEPARTS || Math.abs(profile[n + 2] - paper) < DEPARTS) {
      paper += (profile[n] - paper) / Math.min(n, 40);
      continue;
    }
    const half = (paper + inside) / 2;
    for (let k = Math.max(1, n - 2); k < n + 4; k++) {
      const [a, b] = [profile[k - 1] - half, profile[k] - half];
      if (a * b <= 0 && a !== b) return k - 0.5 + a / (a - b);
    }
    return n + 1;
  }
  return null;
}

/**
 * Finds the straight edges between a print's picture and its paper margin.
 * @param without a place that is not looked at: what is torn away there is no edge of the print
 * @returns nothing for what is no print with a margin
 * Source: own.
 */
export function printEdges(picture: Raster, without: Box): PrintEdges {
  const { width, height } = picture;
  if (paperOf(smallPicture(picture, 640)).share < 0.5) return {};
  const out: PrintEdges = {};
  for (const side of ['left', 'right', 'top', 'bottom'] as const) {
    const upright = side === 'left' || side === 'right';
    const [along, across] = upright ? [height, width] : [width, height];
    const [from, to] = upright ? [without.y, without.y + without.height] : [without.x, without.x + without.width];
    const step = Math.max(1, Math.floor(along / LINES));
    const at: number[] = [];
    const ends: number[] = [];
    let looked = 0;
    for (let t = step >> 1; t < along; t += step) {
      if (t >= from && t < to) continue;
      looked++;
      const end = endOfPaper(profileOf(picture, side, t, Math.floor(DEEP * across)));
      if (end === null) continue;
      at.push(t + 0.5);
      ends.push(side === 'left' || side === 'top' ? end : across - end);
    }
    if (at.length < 20) continue;
    const line = robustFit(at, ends, 1);
    const on = at.filter((t, n) => Math.abs(line(t) - ends[n]) <= ON_LINE).length;
    if (on >= MOST_PLACES * looked) out[side] = line;
  }
  return out;
}

/** Where an upright and a level edge meet. */
function cornerOf(upright: Line, level: Line, near: Point): Point {
  let [x, y] = near;
  for (let n = 0; n < 4; n++) [x, y] = [upright(y), level(x)];
  return [x, y];
}

/** px by which a drawn edge begins outside what it runs through. */
const OUTSIDE = 24;

/** Whether a cover holds a place. */
function holds(shapes: readonly Shape[], box: Box): (p: Point) => boolean {
  const mask = rasterise(shapes, box);
  return ([x, y]) => {
    const [u, v] = [Math.floor(x) - mask.x, Math.floor(y) - mask.y];
    return u >= 0 && v >= 0 && u < mask.width && v < mask.height && mask.data[v * mask.width + u] > 0;
  };
}

const edge = (points: Point[]): Shape => ({ op: 'add', kind: 'strand', points, size: 1 });

/**
 * The edges of a print's picture that run through a cover, as lines to be carried on: where two meet in it, around the corner.
 * @param shapes of a fault, in px of the picture
 */
export function printEdgesThrough(picture: Raster, shapes: readonly Shape[]): Shape[] {
  const bounds = coverBounds(shapes, 0, 0, picture.width, picture.height);
  if (isEmpty(bounds)) return [];
  const around = growWithin(bounds, OUTSIDE, picture.width, picture.height);
  const edges = printEdges(picture, around);
  const covered = holds(shapes, bounds);
  const [x0, y0] = [around.x, around.y];
  const [x1, y1] = [x0 + around.width, y0 + around.height];
  const middle: Point = [(x0 + x1) / 2, (y0 + y1) / 2];
  const out: Shape[] = [];
  const done = new Set<Side>();
  for (const side of ['left', 'right'] as const) {
    for (const level of ['top', 'bottom'] as const) {
      const [v, h] = [edges[side], edges[level]];
      if (!v || !h) continue;
      const [x, y] = cornerOf(v, h, middle);
      if (x < x0 || x > x1 || y < y0 || y > y1) continue;
      // Into the corner along one edge and out of it along the other, both on the picture's side.
      const [fromY, toX] = [level === 'top' ? y1 : y0, side === 'left' ? x1 : x0];
      done.add(side).add(level);
      const points: Point[] = [
        [v(fromY), fromY],
        [x, y],
        [toX, h(toX)],
      ];
      if (runsThrough(points, covered)) out.push(edge(points));
    }
  }
  for (const side of ['left', 'right', 'top', 'bottom'] as const) {
    const line = edges[side];
    if (!line || done.has(side)) continue;
    const upright = side === 'left' || side === 'right';
    const points: Point[] = upright
      ? [
          [line(y0), y0],
          [line(y1), y1],
        ]
      : [
          [x0, line(x0)],
          [x1, line(x1)],
        ];
    if (runsThrough(points, covered)) out.push(edge(points));
  }
  return out;
}

/** px of an edge that lie in a cover for it to run through it. */
const RUNS = 12;

function runsThrough(points: readonly Point[], covered: (p: Point) => boolean): boolean {
  let n = 0;
  for (let k = 1; k < points.length; k++) {
    const [[ax, ay], [bx, by]] = [points[k - 1], points[k]];
    const length = Math.hypot(bx - ax, by - ay);
    for (let s = 0; s < length; s++) if (covered([ax + ((bx - ax) * s) / length, ay + ((by - ay) * s) / length])) n++;
  }
  return n >= RUNS;
}
