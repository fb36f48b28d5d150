// Patch search and voting over byte images with four channels a pixel (red, green, blue, texture).
// All arguments named `*Ptr` are byte addresses in linear memory; strides are in pixels.

let state: u32 = 1;

/** Sets the state of the xorshift generator that drives the random search. */
export function seed(value: u32): void {
  state = value == 0 ? 0x9e3779b9 : value;
}

// @ts-ignore: decorator
@inline
function random(): u32 {
  let x = state;
  x ^= x << 13;
  x ^= x >>> 17;
  x ^= x << 5;
  state = x;
  return x;
}

// @ts-ignore: decorator
@inline
function squares(a: usize, b: usize): v128 {
  const va = v128.load(a);
  const vb = v128.load(b);
  const lo = i16x8.sub(i16x8.extend_low_i8x16_u(va), i16x8.extend_low_i8x16_u(vb));
  const hi = i16x8.sub(i16x8.extend_high_i8x16_u(va), i16x8.extend_high_i8x16_u(vb));
  return i32x4.add(i32x4.dot_i16x8_s(lo, lo), i32x4.dot_i16x8_s(hi, hi));
}

// @ts-ignore: decorator
@inline
function total(v: v128): i32 {
  return (
    i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3)
  );
}

/** Sum of squared differences of two (2r+1)² patches; stops early once it passes `best`. */
function distance(a: usize, b: usize, aStride: usize, bStride: usize, r: i32, best: i32): i32 {
  const width = 2 * r + 1;
  const last = (<usize>(width - 4)) << 2;
  const two = width > 8;
  let pa = a - (<usize>r << 2) - <usize>r * aStride;
  let pb = b - (<usize>r << 2) - <usize>r * bStride;
  let sum = i32x4.splat(0);
  for (let row = 0; row < width; row++) {
    sum = i32x4.add(sum, i32x4.add(squares(pa, pb), squares(pa + last, pb + last)));
    if (two) sum = i32x4.add(sum, squares(pa + 16, pb + 16));
    pa += aStride;
    pb += bStride;
    if (row & 1) {
      const t = total(sum);
      if (t >= best) return t;
    }
  }
  return total(sum);
}

/** Distance of every listed patch to its present match. */
export function measure(
  tgtPtr: usize, tw: i32, srcPtr: usize, sw: i32, r: i32,
  centresPtr: usize, count: i32, matchPtr: usize, distPtr: usize,
): void {
  const ts = <usize>tw << 2;
  const ss = <usize>sw << 2;
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 3;
    const t = tgtPtr + <usize>load<i32>(centresPtr + o + 4) * ts + (<usize>load<i32>(centresPtr + o) << 2);
    const s = srcPtr + <usize>load<i32>(matchPtr + o + 4) * ss + (<usize>load<i32>(matchPtr + o) << 2);
    store<i32>(distPtr + (<usize>i << 2), distance(t, s, ts, ss, r, i32.MAX_VALUE));
  }
}

/** Whether a match lies nearer than is wanted; `least` is the square of px, 0 for any. */
// @ts-ignore: decorator
@inline
function tooNear(dx: i32, dy: i32, least: i32): bool {
  return dx * dx + dy * dy < least;
}

/**
 * One pass of the randomised nearest-neighbour search: propagation from the two neighbours behind, then random
 * search in windows that halve. `least` is the square of the px that a match lies away at least, where both images are one. `okPtr` marks the allowed donor centres, `indexPtr` gives the list place of a centre.
 */
export function searchPass(
  tgtPtr: usize, tw: i32, th: i32, srcPtr: usize, sw: i32, sh: i32, r: i32, okPtr: usize,
  centresPtr: usize, count: i32, indexPtr: usize, matchPtr: usize, distPtr: usize,
  backwards: i32, firstWindow: i32, least: i32,
): void {
  const ts = <usize>tw << 2;
  const ss = <usize>sw << 2;
  const step = backwards ? 1 : -1;
  for (let n = 0; n < count; n++) {
    const i = backwards ? count - 1 - n : n;
    const o = <usize>i << 3;
    const x = load<i32>(centresPtr + o);
    const y = load<i32>(centresPtr + o + 4);
    const t = tgtPtr + <usize>y * ts + (<usize>x << 2);
    let bx = load<i32>(matchPtr + o);
    let by = load<i32>(matchPtr + o + 4);
    let best = load<i32>(distPtr + (<usize>i << 2));
    for (let side = 0; side < 2; side++) {
      const nx = side ? x : x + step;
      const ny = side ? y + step : y;
      if (nx < 0 || ny < 0 || nx >= tw || ny >= th) continue;
      const j = load<i32>(indexPtr + (<usize>(ny * tw + nx) << 2));
      if (j < 0) continue;
      const cx = load<i32>(matchPtr + (<usize>j << 3)) + (x - nx);
      const cy = load<i32>(matchPtr + (<usize>j << 3) + 4) + (y - ny);
      if (cx < r || cy < r || cx >= sw - r || cy >= sh - r || (cx == bx && cy == by)) continue;
      if (!load<u8>(okPtr + <usize>(cy * sw + cx)) || tooNear(cx - x, cy - y, least)) continue;
      const d = distance(t, srcPtr + <usize>cy * ss + (<usize>cx << 2), ts, ss, r, best);
      if (d < best) {
        best = d;
        bx = cx;
        by = cy;
      }
    }
    let window = firstWindow;
    while (window >= 1) {
      const span = <u32>(2 * window + 1);
      const cx = bx - window + <i32>(random() % span);
      const cy = by - window + <i32>(random() % span);
      window >>= 1;
      if (cx < r || cy < r || cx >= sw - r || cy >= sh - r) continue;
      if (!load<u8>(okPtr + <usize>(cy * sw + cx)) || tooNear(cx - x, cy - y, least)) continue;
      const d = distance(t, srcPtr + <usize>cy * ss + (<usize>cx << 2), ts, ss, r, best);
      if (d < best) {
        best = d;
        bx = cx;
        by = cy;
      }
    }
    store<i32>(matchPtr + o, bx);
    store<i32>(matchPtr + o + 4, by);
    store<i32>(distPtr + (<usize>i << 2), best);
  }
}

/** Tries every listed donor centre for every listed patch (coarsest level only). */
export function searchAll(
  tgtPtr: usize, tw: i32, srcPtr: usize, sw: i32, r: i32,
  centresPtr: usize, count: i32, donorsPtr: usize, donorCount: i32, matchPtr: usize, distPtr: usize,
): void {
  const ts = <usize>tw << 2;
  const ss = <usize>sw << 2;
  for (let i = 0; i < count; i++) {
    const o = <usize>i << 3;
    const t = tgtPtr + <usize>load<i32>(centresPtr + o + 4) * ts + (<usize>load<i32>(centresPtr + o) << 2);
    let best = load<i32>(distPtr + (<usize>i << 2));
    for (let k = 0; k < donorCount; k++) {
      const p = donorsPtr + (<usize>k << 3);
      const cx = load<i32>(p);
      const cy = load<i32>(p + 4);
      const d = distance(t, srcPtr + <usize>cy * ss + (<usize>cx << 2), ts, ss, r, best);
      if (d < best) {
        best = d;
        store<i32>(matchPtr + o, cx);
        store<i32>(matchPtr + o + 4, cy);
      }
    }
    store<i32>(distPtr + (<usize>i << 2), best);
  }
}

/** Weighted mean of what all overlapping patches say about each listed pixel; written into the target. */
export function voteMean(
  tgtPtr: usize, tw: i32, th: i32, srcPtr: usize, sw: i32, r: i32,
  pixelsPtr: usize, pixelCount: i32, indexPtr: usize, matchPtr: usize, weightPtr: usize,
): void {
  for (let n = 0; n < pixelCount; n++) {
    const x = load<i32>(pixelsPtr + (<usize>n << 3));
    const y = load<i32>(pixelsPtr + (<usize>n << 3) + 4);
    let sum = f32x4.splat(0);
    let weights: f32 = 0;
    for (let dy = -r; dy <= r; dy++) {
      const cy = y - dy;
      if (cy < 0 || cy >= th) continue;
      for (let dx = -r; dx <= r; dx++) {
        const cx = x - dx;
        if (cx < 0 || cx >= tw) continue;
        const i = load<i32>(indexPtr + (<usize>(cy * tw + cx) << 2));
        if (i < 0) continue;
        const w = load<f32>(weightPtr + (<usize>i << 2));
        const sx = load<i32>(matchPtr + (<usize>i << 3)) + dx;
        const sy = load<i32>(matchPtr + (<usize>i << 3) + 4) + dy;
        const px = v128.load32_zero(srcPtr + (<usize>(sy * sw + sx) << 2));
        const wide = i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(px));
        sum = f32x4.add(sum, f32x4.mul(f32x4.convert_i32x4_s(wide), f32x4.splat(w)));
        weights += w;
      }
    }
    if (weights <= 0) continue;
    const k: f32 = 1 / weights;
    const out = tgtPtr + (<usize>(y * tw + x) << 2);
    store<u8>(out, <u8>(f32x4.extract_lane(sum, 0) * k + 0.5));
    store<u8>(out + 1, <u8>(f32x4.extract_lane(sum, 1) * k + 0.5));
    store<u8>(out + 2, <u8>(f32x4.extract_lane(sum, 2) * k + 0.5));
    store<u8>(out + 3, <u8>(f32x4.extract_lane(sum, 3) * k + 0.5));
  }
}

/** Takes each listed pixel from the overlapping patch with the greatest weight; `labelPtr` receives its donor place. */
export function voteBest(
  tgtPtr: usize, tw: i32, th: i32, srcPtr: usize, sw: i32, r: i32,
  pixelsPtr: usize, pixelCount: i32, indexPtr: usize, matchPtr: usize, weightPtr: usize, labelPtr: usize,
): void {
  for (let n = 0; n < pixelCount; n++) {
    const x = load<i32>(pixelsPtr + (<usize>n << 3));
    const y = load<i32>(pixelsPtr + (<usize>n << 3) + 4);
    let best: f32 = -1;
    let bx = -1;
    let by = -1;
    for (let dy = -r; dy <= r; dy++) {
      const cy = y - dy;
      if (cy < 0 || cy >= th) continue;
      for (let dx = -r; dx <= r; dx++) {
        const cx = x - dx;
        if (cx < 0 || cx >= tw) continue;
        const i = load<i32>(indexPtr + (<usize>(cy * tw + cx) << 2));
        if (i < 0) continue;
        const w = load<f32>(weightPtr + (<usize>i << 2));
        if (w > best) {
          best = w;
          bx = load<i32>(matchPtr + (<usize>i << 3)) + dx;
          by = load<i32>(matchPtr + (<usize>i << 3) + 4) + dy;
        }
      }
    }
    store<i32>(labelPtr + (<usize>n << 3), bx);
    store<i32>(labelPtr + (<usize>n << 3) + 4, by);
    if (bx >= 0) {
      store<u32>(tgtPtr + (<usize>(y * tw + x) << 2), load<u32>(srcPtr + (<usize>(by * sw + bx) << 2)));
    }
  }
}
