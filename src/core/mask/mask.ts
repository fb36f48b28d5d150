import { isEmpty, type Box } from '../raster/raster.ts';
import { distanceTransform } from './distance.ts';

/** A piece of a cover: one byte a pixel, 0 outside to 255 fully covered, placed on the picture by its box. */
export interface Mask extends Box {
  data: Uint8Array;
}

export const emptyMask = (box: Box): Mask => ({ ...box, data: new Uint8Array(box.width * box.height) });

/** The part of a mask inside `box`; pixels beyond the mask are 0. */
export function cropMask(mask: Mask, box: Box): Mask {
  const out = emptyMask(box);
  const x0 = Math.max(box.x, mask.x);
  const x1 = Math.min(box.x + box.width, mask.x + mask.width);
  if (x1 <= x0) return out;
  for (let y = Math.max(box.y, mask.y); y < Math.min(box.y + box.height, mask.y + mask.height); y++) {
    const from = (y - mask.y) * mask.width + (x0 - mask.x);
    out.data.set(mask.data.subarray(from, from + x1 - x0), (y - box.y) * box.width + (x0 - box.x));
  }
  return out;
}

/** The smallest box that holds every non-zero pixel, in picture coordinates; empty when there is none. */
export function boundsOf(mask: Mask): Box {
  let x0 = mask.width;
  let x1 = -1;
  let y0 = mask.height;
  let y1 = -1;
  for (let y = 0; y < mask.height; y++) {
    const row = y * mask.width;
    let first = -1;
    let last = -1;
    for (let x = 0; x < mask.width; x++) {
      if (mask.data[row + x]) {
        if (first < 0) first = x;
        last = x;
      }
    }
    if (first < 0) continue;
    if (first < x0) x0 = first;
    if (last > x1) x1 = last;
    if (y0 > y) y0 = y;
    y1 = y;
  }
  if (x1 < 0) return { x: mask.x, y: mask.y, width: 0, height: 0 };
  return { x: mask.x + x0, y: mask.y + y0, width: x1 - x0 + 1, height: y1 - y0 + 1 };
}

/** Pixels that are at all covered. */
export function coveredPixels(mask: Mask): number {
  let n = 0;
  for (let i = 0; i < mask.data.length; i++) if (mask.data[i]) n++;
  return n;
}

/**
 * The cover with its margin and feather, over `frame`: everything within `margin` px of the fault is fully covered, and
 * over the next `feather` px the cover falls off to nothing (smoothstep).
 */
export function spread(fault: Mask, frame: Box, margin: number, feather: number): Mask {
  const inside = cropMask(fault, frame);
  if (isEmpty(frame) || (margin <= 0 && feather <= 0)) return inside;
  const reach = margin + feather;
  const distance =
    reach <= CLOSE ? distanceNear(inside, reach) : distanceTransform(inside.data, frame.width, frame.height, 'inside');
  for (let i = 0; i < distance.length; i++) {
    const beyond = distance[i] - margin;
    if (beyond <= 0) inside.data[i] = 255;
    else if (beyond < feather) {
      const t = 1 - beyond / feather;
      inside.data[i] = Math.max(inside.data[i], Math.round(255 * t * t * (3 - 2 * t)));
    } else if (distance[i] > 0) inside.data[i] = 0;
  }
  return inside;
}

/** Reach in px up to which it is quicker to look around each border pixel than to measure everywhere. */
const CLOSE = 8;

/** Distance in px of each pixel from the mask where that is no more than `reach`; beyond, more than that. */
function distanceNear({ data, width, height }: Mask, reach: number): Float32Array {
  const out = new Float32Array(data.length).fill(reach + 1);
  const by = Math.floor(reach);
  const offsets: Array<[dx: number, dy: number, far: number]> = [];
  for (let dy = -by; dy <= by; dy++)
    for (let dx = -by; dx <= by; dx++) {
      const far = Math.fround(Math.sqrt(dx * dx + dy * dy));
      if (far <= reach && far > 0) offsets.push([dx, dy, far]);
    }
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (!data[i]) continue;
      out[i] = 0;
      const inner =
        (x === 0 || data[i - 1]) &&
        (x + 1 === width || data[i + 1]) &&
        (y === 0 || data[i - width]) &&
        (y + 1 === height || data[i + width]);
      if (inner) continue;
      for (const [dx, dy, far] of offsets) {
        const [u, v] = [x + dx, y + dy];
        if (u < 0 || v < 0 || u >= width || v >= height) continue;
        const to = v * width + u;
        if (far < out[to]) out[to] = far;
      }
    }
  }
  return out;
}

/** The largest distance in px from a covered pixel to the outside: half the width of the widest place. */
export function depthOf(mask: Mask): number {
  const padded = cropMask(mask, { x: mask.x - 1, y: mask.y - 1, width: mask.width + 2, height: mask.height + 2 });
  const distance = distanceTransform(padded.data, padded.width, padded.height, 'outside');
  let deepest = 0;
  for (let i = 0; i < distance.length; i++) if (distance[i] > deepest) deepest = distance[i];
  return deepest;
}
