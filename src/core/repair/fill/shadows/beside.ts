import { grownBySquare } from '../../../mask/groups.ts';
import { lumaPlane } from '../../../raster/luma.ts';
import { blur } from '../../../raster/planes.ts';
import type { Raster } from '../../../raster/raster.ts';

/** px of the longer side at which shadows are looked for. */
const LOOKED = 240;
/** Stops below what is lit beside it from which on a place is in shadow, and down to which its rim goes on. */
const DARK = 0.4;
const RIM = 0.2;
/** Share of what is known that may be that dark: where more is, the ground itself is dark here and light there, as in a scene. */
const MOST_DARK = 0.1;
/** px of the small picture by which a shadow is taken larger. */
const LARGER = 2;
/** Stops of light that a doubling of the stored values is. */
const GAMMA = 2.2;
/** Light of a level that is as good as black, of 255. */
const BLACK = 2;

/** A plane averaged down over what is known, NaN where nothing is. */
function reduced(plane: Float32Array, known: (i: number) => boolean, width: number, height: number, by: number) {
  const [w, h] = [Math.ceil(width / by), Math.ceil(height / by)];
  const [sums, counts] = [new Float32Array(w * h), new Float32Array(w * h)];
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0, row = Math.floor(y / by) * w; x < width; x++, i++) {
      if (!known(i)) continue;
      const o = row + Math.floor(x / by);
      sums[o] += plane[i];
      counts[o]++;
    }
  return { w, h, data: sums.map((v, o) => (counts[o] ? v / counts[o] : NaN)) };
}

/** Blurred over what is known. */
function blurredKnown(data: Float32Array, w: number, h: number, sigma: number): Float32Array {
  const weight = blur(
    data.map((v) => (v === v ? 1 : 0)),
    w,
    h,
    sigma,
  );
  const sum = blur(
    data.map((v) => (v === v ? v : 0)),
    w,
    h,
    sigma,
  );
  return sum.map((v, i) => (weight[i] > 1e-3 ? v / weight[i] : NaN));
}

/** By how many stops each place is darker than what is lit on both sides of it, in its row. */
function depthsOf(stops: Float32Array, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const row = stops.subarray(y * w, (y + 1) * w);
    for (let x = 0; x < w; x++) {
      if (!(row[x] === row[x])) continue;
      let [left, right] = [row[x], row[x]];
      for (let u = 0; u < x; u++) if (row[u] > left) left = row[u];
      for (let u = x + 1; u < w; u++) if (row[u] > right) right = row[u];
      out[y * w + x] = Math.min(left, right) - row[x];
    }
  }
  return out;
}

/** Where something stands, and where something is known, reduced. */
function reducedMasks(barred: Uint8Array, unknown: Uint8Array, width: number, by: number, w: number, h: number) {
  const stands = new Uint8Array(w * h);
  const isThere = new Uint8Array(w * h);
  for (let i = 0; i < barred.length; i++) {
    const x = i % width;
    const o = Math.floor((i - x) / width / by) * w + Math.floor(x / by);
    if (barred[i]) stands[o] = 1;
    if (!unknown[i]) isThere[o] = 1;
  }
  return { stands, isThere };
}

/** The dark places that hang together from one on, whether something stands beside them, and whether they leave the picture. */
function shadowFrom(
  start: number,
  depths: Float32Array,
  { stands, isThere }: ReturnType<typeof reducedMasks>,
  seen: Uint8Array,
  w: number,
) {
  const group = [start];
  seen[start] = 1;
  let [touches, leaves] = [false, false];
  for (let k = 0; k < group.length; k++) {
    const x = group[k] % w;
    for (const j of [x > 0 ? group[k] - 1 : -1, x + 1 < w ? group[k] + 1 : -1, group[k] - w, group[k] + w]) {
      if (j < 0 || j >= depths.length || !isThere[j]) leaves ||= depths[group[k]] >= DARK;
      else if (stands[j]) touches = true;
      else if (!seen[j] && depths[j] > RIM) {
        seen[j] = 1;
        group.push(j);
      }
    }
  }
  return { group, touches, leaves };
}

/** A small mask at the picture's size, somewhat larger. */
export function enlarged(
  mask: Uint8Array,
  w: number,
  h: number,
  by: number,
  width: number,
  height: number,
): Uint8Array {
  const wide = grownBySquare(mask, w, h, LARGER);
  const out = new Uint8Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) out[i] = wide[Math.floor(y / by) * w + Math.floor(x / by)];
  return out;
}

/** Whether the ground is so even that a shadow can be told from what is dark by itself. */
function isEven(depths: Float32Array, { stands, isThere }: ReturnType<typeof reducedMasks>): boolean {
  let [known, dark] = [0, 0];
  depths.forEach((depth, o) => {
    if (stands[o] || !isThere[o]) return;
    known++;
    if (depth >= DARK) dark++;
  });
  return dark <= MOST_DARK * known;
}

/**
 * The shadow that something casts onto the ground beside it, at a size of its own: dark places that hang together with it and are lit
 * on both sides. One that leaves the picture is none of it: it goes on there.
 * @param barred 1 where that stands
 * @param unknown 1 where nothing is known
 * @returns 1 where its shadow is, of the picture's size; null where there is none, or the ground is not even
 * Source: common practice (a donor lends no shadow of what it does not show); constants from the demo picture and own tests.
 */
export function shadowOf(picture: Raster, barred: Uint8Array, unknown: Uint8Array): Uint8Array | null {
  const { width, height } = picture;
  const by = Math.max(1, Math.ceil(Math.max(width, height) / LOOKED));
  const small = reduced(lumaPlane(picture), (i) => !unknown[i] && !barred[i], width, height, by);
  const { w, h } = small;
  const light = small.data.map((v) => Math.log2(Math.max(BLACK, v)) * GAMMA);
  const depths = depthsOf(blurredKnown(light, w, h, 1.5), w, h);
  const masks = reducedMasks(barred, unknown, width, by, w, h);
  if (!isEven(depths, masks)) return null;
  const shadow = new Uint8Array(w * h);
  const seen = new Uint8Array(w * h);
  for (let start = 0; start < depths.length; start++) {
    if (seen[start] || masks.stands[start] || !masks.isThere[start] || depths[start] < DARK) continue;
    const { group, touches, leaves } = shadowFrom(start, depths, masks, seen, w);
    if (touches && !leaves) for (const o of group) shadow[o] = 1;
  }
  return shadow.includes(1) ? enlarged(shadow, w, h, by, width, height) : null;
}
