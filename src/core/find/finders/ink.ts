import { distanceTransform } from '../../mask/distance.ts';
import { cropMask } from '../../mask/mask.ts';
import { outlineOf, simplified } from '../../mask/outline.ts';
import type { Shape } from '../../mask/shapes.ts';
import { quantile } from '../../raster/luma.ts';
import { blur } from '../../raster/planes.ts';
import {
  colourChannels,
  crop,
  fullScale,
  grow,
  growWithin,
  union,
  type Box,
  type Raster,
} from '../../raster/raster.ts';
import { labOf } from '../../tone/lab.ts';
import type { Find } from '../find.ts';
import { groupsOf, type Group } from './blobs.ts';

/** px around a place that are looked at with it, and px between words of a line. */
const AROUND = 28;
const APART = 90;
/** px over which colour is evened out before strokes are told: files hold it less finely than tone. */
const EVENED = 1.1;
/** Least departure of ink from the tint of a print, ΔE of colour alone, and in deviations of what is usual. */
const LEAST = 5;
const CLEAR = 5;
/** Shares of the ink's departure from which a stroke is sure, and down to which it reaches. */
const SURE = 0.5;
const REACHES = 0.4;
/** px in all below which marks are grain, and holes in a letter are closed. */
const SMALLEST = 14;
const HOLE = 30;
/** Share of its own box that the largest piece of lettering covers at most. */
const SOLID = 0.62;
/** Share of its place that lettering covers at most, and widest stroke in px as a share of the line's height. */
const FILLED = 0.4;
const WIDEST = 0.2;

/** Lightness from which on colour tells a tint. */
const LIT = 12;

/** The tint around a place, as a share of lightness: the median, which other ink beside it does not move. */
function tintAround([l, a, b]: readonly Float32Array[], width: number): [number, number] {
  const height = l.length / width;
  const [as, bs]: [number[], number[]] = [[], []];
  for (let i = 0; i < l.length; i++) {
    const [x, y] = [i % width, Math.floor(i / width)];
    const inside = x >= AROUND && y >= AROUND && x < width - AROUND && y < height - AROUND;
    if (inside || l[i] < LIT) continue;
    as.push(a[i] / l[i]);
    bs.push(b[i] / l[i]);
  }
  return [quantile(as, 0.5), quantile(bs, 0.5)];
}

/** Colour of a part of a print beside what is usual for its lightness around: a and b of CIELAB. */
function departures(part: Raster): [Float32Array, Float32Array] {
  const { width, height, channels, data } = part;
  const unit = 255 / fullScale(part.depth);
  const planes = [0, 1, 2].map((c) => {
    const plane = new Float32Array(width * height);
    for (let i = 0; i < plane.length; i++) plane[i] = data[i * channels + c] * unit;
    return blur(plane, width, height, EVENED);
  });
  const [l, a, b] = [0, 1, 2].map(() => new Float32Array(width * height));
  for (let i = 0; i < l.length; i++) [l[i], a[i], b[i]] = labOf(planes[0][i], planes[1][i], planes[2][i]);
  const [ta, tb] = tintAround([l, a, b], width);
  for (let i = 0; i < l.length; i++) {
    a[i] -= ta * l[i];
    b[i] -= tb * l[i];
  }
  return [a, b];
}

/** How far each pixel departs towards the colour of the ink, and how far the ink does; null where there is none. */
function towardsInk(part: Raster): { plane: Float32Array; level: number } | null {
  const [a, b] = departures(part);
  const size = Float32Array.from(a, (v, i) => Math.hypot(v, b[i]));
  const strong = quantile(size, 0.97);
  let [da, db] = [0, 0];
  for (let i = 0; i < size.length; i++) {
    if (size[i] < strong) continue;
    da += a[i];
    db += b[i];
  }
  const length = Math.hypot(da, db);
  if (!length) return null;
  const plane = Float32Array.from(a, (v, i) => (v * da + b[i] * db) / length);
  const level = quantile(plane, 0.97);
  const spread = 1.4826 * quantile(plane.map(Math.abs), 0.5);
  return level > Math.max(LEAST, CLEAR * spread) ? { plane, level } : null;
}

/** Groups of pixels that reach far enough towards the ink and hold some that surely are. */
function strokesOf(plane: Float32Array, level: number, width: number, height: number): Group[] {
  const reached = Uint8Array.from(plane, (v) => (v > REACHES * level ? 1 : 0));
  return groupsOf(reached, width, height).filter(({ box, mask, area }) => {
    if (area < SMALLEST) return false;
    let sure = 0;
    mask.forEach((v, k) => {
      const i = (box.y + Math.floor(k / box.width)) * width + box.x + (k % box.width);
      if (v && plane[i] > SURE * level) sure++;
    });
    return sure >= SMALLEST / 2;
  });
}

/** Outlines of a group, the holes of its letters left out. */
function shapesOf({ box, mask }: Group, at: Box): Shape[] {
  const [x, y] = [at.x + box.x, at.y + box.y];
  const line = (m: Uint8Array, w: number, h: number, px: number, py: number) =>
    simplified(outlineOf(m, w, h, px, py), 0.7);
  const out: Shape[] = [{ op: 'add', kind: 'outline', points: line(mask, box.width, box.height, x, y) }];
  const around = mask.map((v) => (v ? 0 : 1));
  for (const hole of groupsOf(around, box.width, box.height)) {
    const { x: u, y: v, width: w, height: h } = hole.box;
    if (hole.area < HOLE || u === 0 || v === 0 || u + w === box.width || v + h === box.height) continue;
    out.push({ op: 'take', kind: 'outline', points: line(hole.mask, w, h, x + u, y + v) });
  }
  return out;
}

/** The strokes of a line of lettering within a box; null where there is none. */
function letteringIn(picture: Raster, place: Box): Find | null {
  const box = growWithin(place, AROUND, picture.width, picture.height);
  const ink = towardsInk(crop(picture, box));
  if (!ink) return null;
  const groups = strokesOf(ink.plane, ink.level, box.width, box.height);
  if (groups.length < 2) return null;
  // A patch fills its box, letters do not.
  const [{ box: largest, area }] = groups;
  if (area > SOLID * largest.width * largest.height) return null;
  const bounds = groups.map((g) => g.box).reduce(union);
  const covered = groups.reduce((s, g) => s + g.area, 0);
  const depths = groups.reduce((sum, { box: b, mask }) => {
    // With room around, so that a stroke that fills its box has an outside.
    const room = cropMask({ ...b, data: mask }, grow(b, 1));
    return sum + distanceTransform(room.data, room.width, room.height, 'outside').reduce((d, v) => d + v, 0);
  }, 0);
  // On average a stroke is a quarter as deep as it is wide; it looks wider by as much as colour was evened out.
  const width = Math.max(1, (4 * depths) / covered - 2 * EVENED);
  if (covered > FILLED * bounds.width * bounds.height || width > WIDEST * bounds.height) return null;
  return {
    kind: 'lettering',
    score: 0.9,
    shapes: groups.flatMap((g) => shapesOf(g, box)),
    box: { ...bounds, x: bounds.x + box.x, y: bounds.y + box.y },
    width,
    length: bounds.width,
    contrast: -ink.level,
  };
}

const sameLine = (a: Box, b: Box): boolean =>
  a.x < b.x + b.width + APART && b.x < a.x + a.width + APART && a.y < b.y + b.height && b.y < a.y + a.height;

/**
 * Tells lettering in ink from stains: among places whose colour departs from the tint of a print those that are made of strokes,
 * words of a line taken together. Source: own.
 * @returns lettering, and the places that hold none
 */
export function toldByInk(picture: Raster, places: readonly Box[]): { lettering: Find[]; unwritten: boolean[] } {
  if (colourChannels(picture.channels) === 1) return { lettering: [], unwritten: places.map(() => true) };
  const written = places.map((place) => letteringIn(picture, place) !== null);
  const lines: Box[] = [];
  for (let line of places.filter((_, n) => written[n])) {
    for (let n = lines.length - 1; n >= 0; n--) {
      if (!sameLine(lines[n], line)) continue;
      line = union(lines.splice(n, 1)[0], line);
      n = lines.length;
    }
    lines.push(line);
  }
  return { lettering: lines.flatMap((l) => letteringIn(picture, l) ?? []), unwritten: written.map((v) => !v) };
}
