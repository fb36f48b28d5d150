// What moves cost at the ring around a cover and at its pixels.
import { allowed, distance, height, known, rows, unreadable, width } from './field';

/** Where a move takes a place, or −1 outside. */
// @ts-ignore: decorator
@inline
function moved(x: i32, y: i32, dx: i32, dy: i32): i32 {
  const u = x + dx;
  const v = y + dy;
  return u >= 0 && u < width && v >= 0 && v < rows ? v * width + u : -1;
}

/**
 * Mean mismatch, 0 to 1, of the ring as a whole and of each of its stretches, for every move. `ringPtr`: pixel and stretch of each
 * of `count` ring places; `weightsPtr`: how much each tells; `totalsPtr`: sum of the weights of each stretch. Results: one float a
 * move at `wholePtr`, `stretches` floats a move at `partsPtr`.
 */
export function ringCosts(
  ringPtr: usize, weightsPtr: usize, totalsPtr: usize, count: i32, stretches: i32, mismatch: f32,
  movesPtr: usize, moves: i32, wholePtr: usize, partsPtr: usize,
): void {
  let total: f32 = 0;
  for (let s = 0; s < stretches; s++) total += load<f32>(totalsPtr + (<usize>s << 2));
  const unit: f32 = 1 / mismatch;
  for (let m = 0; m < moves; m++) {
    const dx = load<i32>(movesPtr + (<usize>m << 3));
    const dy = load<i32>(movesPtr + (<usize>m << 3), 4);
    const parts = partsPtr + <usize>(m * stretches) * 4;
    memory.fill(parts, 0, <usize>stretches << 2);
    let sum: f32 = 0;
    for (let n = 0; n < count; n++) {
      const i = load<i32>(ringPtr + (<usize>n << 3));
      const s = load<i32>(ringPtr + (<usize>n << 3), 4);
      const w = load<f32>(weightsPtr + (<usize>n << 2));
      const d = moved(i % width, i / width, dx, dy);
      let miss = w;
      if (d >= 0 && load<u8>(allowed + <usize>d)) miss = w * min<f32>(1, distance(i, d) * unit);
      sum += miss;
      const at = parts + (<usize>s << 2);
      store<f32>(at, load<f32>(at) + miss);
    }
    for (let s = 0; s < stretches; s++) {
      const at = parts + (<usize>s << 2);
      const t = load<f32>(totalsPtr + (<usize>s << 2));
      store<f32>(at, t > 0 ? load<f32>(at) / t : 1);
    }
    store<f32>(wholePtr + (<usize>m << 2), sum / total);
  }
}

/** What a move would put differently at a known pixel. */
// @ts-ignore: decorator
@inline
function mismatchAt(q: i32, d: i32): f32 {
  if (q == d) return 0;
  return d >= 0 && load<u8>(known + <usize>d) ? distance(q, d) : unreadable;
}

/**
 * Places and costs of moves at covered pixels: at `placesPtr` where each takes each (move × count + pixel, −1 outside), at
 * `costsPtr` what that costs in `parts` of a unit, `never` where it may not be taken. `pixelsPtr`: the covered pixels; `aroundPtr`:
 * their neighbours among them (right, left, below, above, −1 where there is none).
 */
export function moveCosts(
  pixelsPtr: usize, aroundPtr: usize, count: i32, movesPtr: usize, moves: i32, placesPtr: usize, costsPtr: usize,
  parts: f32, never: i32,
): void {
  for (let m = 0; m < moves; m++) {
    const dx = load<i32>(movesPtr + (<usize>m << 3));
    const dy = load<i32>(movesPtr + (<usize>m << 3), 4);
    for (let n = 0; n < count; n++) {
      const p = load<i32>(pixelsPtr + (<usize>n << 2));
      const x = p % width;
      const y = p / width;
      const d = moved(x, y, dx, dy);
      const at = <usize>(m * count + n) << 2;
      store<i32>(placesPtr + at, d);
      if (d < 0 || !load<u8>(allowed + <usize>d)) {
        store<i32>(costsPtr + at, never);
        continue;
      }
      let cost: f32 = 0;
      let border = false;
      for (let k = 0; k < 4; k++) {
        if (load<i32>(aroundPtr + (<usize>(4 * n + k) << 2)) >= 0) continue;
        const u = x + (k == 0 ? 1 : k == 1 ? -1 : 0);
        const v = y + (k == 2 ? 1 : k == 3 ? -1 : 0);
        if (u < 0 || v < 0 || u >= width || v >= height) continue;
        const q = v * width + u;
        if (!load<u8>(known + <usize>q)) continue;
        border = true;
        cost += 2 * mismatchAt(q, moved(u, v, dx, dy));
      }
      if (border) {
        // What the move would put differently at the known pixels close by.
        let sum: f32 = 0;
        let seen: f32 = 0;
        for (let v = max(0, y - 2); v <= min(height - 1, y + 2); v++) {
          for (let u = max(0, x - 2); u <= min(width - 1, x + 2); u++) {
            const q = v * width + u;
            if (!load<u8>(known + <usize>q)) continue;
            const e = moved(u, v, dx, dy);
            if (e < 0 || !load<u8>(known + <usize>e)) continue;
            sum += mismatchAt(q, e);
            seen += 1;
          }
        }
        if (seen > 0) cost += sum / seen;
      }
      store<i32>(costsPtr + at, <i32>nearest<f32>(parts * cost));
    }
  }
}
