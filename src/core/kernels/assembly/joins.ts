// Two-sided joining of what strands cut through: for every covered pixel the direction along which what lies on both sides agrees
// best. Images are four floats a pixel.

/** Directions looked along, over half a turn. */
const DIRECTIONS: i32 = 32;
/** Cost of a direction without a second side. */
const NONE: f32 = 150;

let image: usize = 0;
let mask: usize = 0;
let columns: i32 = 0;
let lines: i32 = 0;
let reach: i32 = 0;

let endX: f32 = 0;
let endY: f32 = 0;

/**
 * Goes from a covered pixel along (dx, dy) to the first known one. The mask says how deep each pixel lies, and 255 on the frame of the
 * picture. Returns the steps, or 0 where there is none in reach.
 */
// @ts-ignore: decorator
@inline
function march(x: i32, y: i32, dx: f32, dy: f32): i32 {
  // In 65536ths of a px.
  const fx = <i32>(dx * 65536);
  const fy = <i32>(dy * 65536);
  const x0 = (x << 16) + 32768;
  const y0 = (y << 16) + 32768;
  let t = <i32>load<u8>(mask + <usize>(y * columns + x));
  let found = 0;
  while (t <= reach) {
    const deep = <i32>load<u8>(mask + <usize>(((y0 + fy * t) >> 16) * columns + ((x0 + fx * t) >> 16)));
    if (!deep) {
      endX = <f32>x + dx * <f32>t;
      endY = <f32>y + dy * <f32>t;
      found = t;
      break;
    }
    // So many steps at least lead to nothing that is known.
    t += deep;
  }
  return found;
}

/** Colour between four pixels. */
// @ts-ignore: decorator
@inline
function sample(x: f32, y: f32): v128 {
  const u = min<i32>(columns - 2, max<i32>(0, <i32>floor<f32>(x)));
  const v = min<i32>(lines - 2, max<i32>(0, <i32>floor<f32>(y)));
  const fx = x - <f32>u;
  const fy = y - <f32>v;
  const p = image + (<usize>(v * columns + u) << 4);
  const q = p + (<usize>columns << 4);
  const upper = f32x4.add(v128.load(p), f32x4.mul(f32x4.splat(fx), f32x4.sub(v128.load(p, 16), v128.load(p))));
  const lower = f32x4.add(v128.load(q), f32x4.mul(f32x4.splat(fx), f32x4.sub(v128.load(q, 16), v128.load(q))));
  return f32x4.add(upper, f32x4.mul(f32x4.splat(fy), f32x4.sub(lower, upper)));
}

// @ts-ignore: decorator
@inline
function pixel(x: f32, y: f32): v128 {
  const u = min<i32>(columns - 1, max<i32>(0, <i32>nearest<f32>(x)));
  const v = min<i32>(lines - 1, max<i32>(0, <i32>nearest<f32>(y)));
  return v128.load(image + (<usize>(v * columns + u) << 4));
}

// @ts-ignore: decorator
@inline
function size(d: v128): f32 {
  const a = f32x4.abs(d);
  return f32x4.extract_lane(a, 0) + f32x4.extract_lane(a, 1) + f32x4.extract_lane(a, 2);
}

/**
 * Costs of all directions at every second of `count` covered pixels (x, y pairs at `placesPtr`), 32 floats each at `costsPtr`. `maskPtr`: how many px deep
 * each pixel lies in the cover, by squares, 0 where it is known. `turnsPtr`: cosine and sine of each direction.
 */
export function joinCosts(
  imagePtr: usize, maskPtr: usize, width: i32, height: i32, placesPtr: usize, count: i32, turnsPtr: usize, far: i32,
  costsPtr: usize,
): void {
  image = imagePtr;
  mask = maskPtr;
  columns = width;
  lines = height;
  reach = far;
  for (let n = 0; n < count; n++) {
    const x = load<i32>(placesPtr + (<usize>n << 3));
    const y = load<i32>(placesPtr + (<usize>n << 3), 4);
    // Every second pixel, as on a chessboard: costs are judged together with their neighbours' in any case.
    if ((x + y) & 1) continue;
    for (let k = 0; k < DIRECTIONS; k++) {
      const dx = load<f32>(turnsPtr + (<usize>k << 3));
      const dy = load<f32>(turnsPtr + (<usize>k << 3), 4);
      let cost = NONE;
      const a = march(x, y, dx, dy);
      if (a) {
        const ax = endX;
        const ay = endY;
        const b = march(x, y, -dx, -dy);
        if (b) {
          const va = pixel(ax, ay);
          const vb = pixel(endX, endY);
          // What lies behind both ends tells whether the same thing runs on.
          const wa = pixel(ax + dx, ay + dy);
          const wb = pixel(endX - dx, endY - dy);
          const slope = f32x4.add(f32x4.sub(wa, va), f32x4.sub(wb, vb));
          cost = min<f32>(NONE, size(f32x4.sub(va, vb)) + 0.5 * size(slope));
        }
      }
      store<f32>(costsPtr + (<usize>(n * DIRECTIONS + k) << 2), cost);
    }
  }
}

/** Means of the costs over the covered pixels of 7 × 7. `indexPtr`: number of each pixel among the covered ones, or −1. */
export function joinMeans(
  width: i32, height: i32, placesPtr: usize, count: i32, indexPtr: usize, costsPtr: usize, outPtr: usize,
): void {
  const bytes = <usize>DIRECTIONS << 2;
  for (let n = 0; n < count; n++) {
    const x = load<i32>(placesPtr + (<usize>n << 3));
    const y = load<i32>(placesPtr + (<usize>n << 3), 4);
    const to = outPtr + <usize>n * bytes;
    memory.fill(to, 0, bytes);
    let seen = 0;
    for (let v = max(0, y - 3); v <= min(height - 1, y + 3); v++) {
      const left = max(0, x - 3);
      for (let u = left + ((left + v) & 1); u <= min(width - 1, x + 3); u += 2) {
        const m = load<i32>(indexPtr + (<usize>(v * width + u) << 2));
        if (m < 0) continue;
        const from = costsPtr + <usize>m * bytes;
        for (let k: usize = 0; k < bytes; k += 16) v128.store(to + k, f32x4.add(v128.load(to + k), v128.load(from + k)));
        seen++;
      }
    }
    if (!seen) {
      for (let k: usize = 0; k < bytes; k += 16) v128.store(to + k, f32x4.splat(NONE));
      continue;
    }
    const share = f32x4.splat(1 / <f32>seen);
    for (let k: usize = 0; k < bytes; k += 16) v128.store(to + k, f32x4.mul(v128.load(to + k), share));
  }
}

/**
 * The best direction of each pixel: how far it is trusted, at `leansPtr`, and what lies between both ends, four floats at
 * `joinsPtr`. `most`: greatest lean; `from`, `span`: share of the mean cost at which leaning begins, and over which it grows.
 */
export function joinBest(
  placesPtr: usize, count: i32, turnsPtr: usize, costsPtr: usize, most: f32, from: f32, span: f32,
  leansPtr: usize, joinsPtr: usize,
): void {
  for (let n = 0; n < count; n++) {
    const costs = costsPtr + (<usize>(n * DIRECTIONS) << 2);
    let best = 0;
    let least: f32 = f32.MAX_VALUE;
    let sum: f32 = 0;
    for (let k = 0; k < DIRECTIONS; k++) {
      const c = load<f32>(costs + (<usize>k << 2));
      sum += c;
      if (c < least) {
        least = c;
        best = k;
      }
    }
    store<f32>(leansPtr + (<usize>n << 2), 0);
    const trust = (from - least / (sum / <f32>DIRECTIONS + 1)) / span;
    if (trust <= 0) continue;
    // Between the directions, by the parabola through the best and its neighbours.
    const c0 = load<f32>(costs + (<usize>((best + DIRECTIONS - 1) % DIRECTIONS) << 2));
    const c1 = load<f32>(costs + (<usize>((best + 1) % DIRECTIONS) << 2));
    const bend = c0 + c1 - 2 * least;
    const shift: f32 = bend > 1e-3 ? max<f32>(-0.5, min<f32>(0.5, (0.5 * (c0 - c1)) / bend)) : 0;
    const next = shift < 0 ? best - 1 : best + 1;
    const part = shift < 0 ? -shift : shift;
    // Directions half a turn on point the other way.
    const turn: f32 = next < 0 || next >= DIRECTIONS ? -1 : 1;
    const m = (next + DIRECTIONS) % DIRECTIONS;
    const dx0 = load<f32>(turnsPtr + (<usize>best << 3));
    const dy0 = load<f32>(turnsPtr + (<usize>best << 3), 4);
    const dx = dx0 + part * (turn * load<f32>(turnsPtr + (<usize>m << 3)) - dx0);
    const dy = dy0 + part * (turn * load<f32>(turnsPtr + (<usize>m << 3), 4) - dy0);
    const x = load<i32>(placesPtr + (<usize>n << 3));
    const y = load<i32>(placesPtr + (<usize>n << 3), 4);
    const a = march(x, y, dx, dy);
    if (!a) continue;
    // Half a px farther out, so that nothing covered is mixed in.
    const va = sample(endX + 0.5 * dx, endY + 0.5 * dy);
    const b = march(x, y, -dx, -dy);
    if (!b) continue;
    const vb = sample(endX - 0.5 * dx, endY - 0.5 * dy);
    const t = <f32>a / <f32>(a + b);
    v128.store(joinsPtr + (<usize>n << 4), f32x4.add(va, f32x4.mul(f32x4.splat(t), f32x4.sub(vb, va))));
    const lean = min<f32>(1, trust);
    store<f32>(leansPtr + (<usize>n << 2), most * lean * lean);
  }
}
