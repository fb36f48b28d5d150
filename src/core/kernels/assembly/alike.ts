// How alike two places of a plane are: correlations of what lies around them, 15 × 15 px, that lies whole within the plane.

/** px of half a side. */
const HALF: i32 = 7;
const SIDE: i32 = 15;
/** Samples along a side where every second px is compared. */
const HALVED: i32 = 8;

let columns: i32 = 0;
let plane: usize = 0;
/** What is around the place that others are compared with: every second px, of mean 0 and length 1. */
const own: usize = memory.data(256, 16);

/** Says which plane is looked at, and how wide it is. */
export function alikeOpen(planePtr: usize, width: i32): void {
  plane = planePtr;
  columns = width;
}

// @ts-ignore: decorator
@inline
function sumOf(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3);
}

/** Every second of eight values. */
// @ts-ignore: decorator
@inline
function seconds(at: usize): v128 {
  return v128.shuffle<f32>(v128.load(at), v128.load(at, 16), 0, 2, 4, 6);
}

/** Reads what is around a place, also mirrored across, that others are to be compared with. */
export function alikeWith(x: i32, y: i32, mirror: i32): void {
  let sum: f32 = 0;
  for (let v = 0, k = 0; v < HALVED; v++) {
    const row = plane + (<usize>((y - HALF + 2 * v) * columns + x) << 2);
    for (let u = 0; u < HALVED; u++, k++) {
      const value = load<f32>(row + (<isize>(mirror * (2 * u - HALF)) << 2));
      store<f32>(own + (<usize>k << 2), value);
      sum += value;
    }
  }
  const mean = sum / <f32>(HALVED * HALVED);
  let square: f32 = 0;
  for (let k = 0; k < HALVED * HALVED; k++) {
    const value = load<f32>(own + (<usize>k << 2)) - mean;
    square += value * value;
    store<f32>(own + (<usize>k << 2), value);
  }
  const scale: f32 = square > 0 ? 1 / sqrt<f32>(square) : 0;
  for (let k = 0; k < HALVED * HALVED; k++) store<f32>(own + (<usize>k << 2), scale * load<f32>(own + (<usize>k << 2)));
}

/** 1 by how much what is around the nine px at and beside a place varies, 0 where it does not: nine floats. */
export function alikeScales(x: i32, y: i32, scalesPtr: usize): void {
  for (let dy = -1, n = 0; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++, n++) {
      const first = plane + (<usize>((y + dy - HALF) * columns + x + dx - HALF) << 2);
      const about = f32x4.splat(load<f32>(first));
      let sums = f32x4.splat(0);
      let squares = f32x4.splat(0);
      for (let v = 0, row = first; v < HALVED; v++, row += <usize>columns << 3) {
        const p = f32x4.sub(seconds(row), about);
        const q = f32x4.sub(seconds(row + 32), about);
        sums = f32x4.add(sums, f32x4.add(p, q));
        squares = f32x4.add(squares, f32x4.add(f32x4.mul(p, p), f32x4.mul(q, q)));
      }
      const sum = sumOf(sums);
      const square = sumOf(squares) - (sum * sum) / <f32>(HALVED * HALVED);
      store<f32>(scalesPtr + (<usize>n << 2), square > 0 ? 1 / sqrt<f32>(square) : 0);
    }
}

/**
 * Which of the nine px at and beside a place is most like the one that was read by `alikeWith`, by rows; −1 where none is by `least`.
 * `scalesPtr`: from `alikeScales`.
 */
export function alikeBeside(x: i32, y: i32, scalesPtr: usize, least: f32): i32 {
  let best = -1;
  let most = least;
  for (let dy = -1, n = 0; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++, n++) {
      let sums = f32x4.splat(0);
      let row = plane + (<usize>((y + dy - HALF) * columns + x + dx - HALF) << 2);
      for (let v = 0, at = own; v < HALVED; v++, row += <usize>columns << 3, at += 32) {
        sums = f32x4.add(sums, f32x4.mul(v128.load(at), seconds(row)));
        sums = f32x4.add(sums, f32x4.mul(v128.load(at, 16), seconds(row + 32)));
      }
      const r = sumOf(sums) * load<f32>(scalesPtr + (<usize>n << 2));
      if (r > most) {
        best = n;
        most = r;
      }
    }
  return best;
}

let varied: f32 = 0;

/** How much what was correlated last varies, in the less varied of both places. */
export function alikeVaries(): f32 {
  return varied;
}

/** Correlation of what is around two places of a plane over every so many rows, the second one also mirrored across. */
export function alikeCorrelation(planePtr: usize, ax: i32, ay: i32, bx: i32, by: i32, mirror: i32, every: i32): f32 {
  const half = v128(-1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, -1, 0, 0, 0, 0);
  const step = <usize>(columns * every) << 2;
  let i = planePtr + (<usize>((ay - HALF) * columns + ax - HALF) << 2);
  // Mirrored, four px are read from their other end.
  let j = planePtr + (<usize>((by - HALF) * columns + (mirror > 0 ? bx - HALF : bx + HALF - 3)) << 2);
  const pa = f32x4.splat(load<f32>(planePtr + (<usize>(ay * columns + ax) << 2)));
  const qa = f32x4.splat(load<f32>(planePtr + (<usize>(by * columns + bx) << 2)));
  let sa = f32x4.splat(0);
  let sb = f32x4.splat(0);
  let saa = f32x4.splat(0);
  let sbb = f32x4.splat(0);
  let sab = f32x4.splat(0);
  let n = 0;
  for (let v = 0; v < SIDE; v += every, i += step, j += step, n += SIDE) {
    for (let k = 0; k < 4; k++) {
      let p = f32x4.sub(v128.load(i + (<usize>k << 4)), pa);
      let q: v128;
      if (mirror > 0) q = v128.load(j + (<usize>k << 4));
      else {
        q = v128.load(j - (<usize>k << 4));
        q = v128.shuffle<f32>(q, q, 3, 2, 1, 0);
      }
      q = f32x4.sub(q, qa);
      if (k == 3) {
        p = v128.and(p, half);
        q = v128.and(q, half);
      }
      sa = f32x4.add(sa, p);
      sb = f32x4.add(sb, q);
      saa = f32x4.add(saa, f32x4.mul(p, p));
      sbb = f32x4.add(sbb, f32x4.mul(q, q));
      sab = f32x4.add(sab, f32x4.mul(p, q));
    }
  }
  const a = sumOf(sa);
  const b = sumOf(sb);
  const count = <f32>n;
  const va = sumOf(saa) - (a * a) / count;
  const vb = sumOf(sbb) - (b * b) / count;
  varied = sqrt<f32>(max<f32>(0, min<f32>(va, vb) / count));
  const size = sqrt<f32>(max<f32>(0, va * vb));
  return size > 0 ? (sumOf(sab) - (a * b) / count) / size : 0;
}
