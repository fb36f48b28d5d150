// Local Gaussian prediction: a symmetric conditional autoregressive model, fitted by least squares and solved on
// the covered pixels by Gauss–Seidel. Images are four floats a pixel; addresses are in bytes.

/**
 * Adds the samples of one tile to the normal equations. For a sample p with fully known surroundings,
 * u_k = (x[p+d_k] + x[p-d_k]) / 2 − m, y = x[p] − m, with m the mean of the four direct neighbours, so that the model without
 * evidence is the membrane. Eight pixels of a row are done at once; those that `okPtr` does not mark count as nothing.
 *
 * @param lumaPtr one float a pixel, `width` a row, readable for 8 pixels beyond each row's end
 * @param scratchPtr room for 2 (k + 1) vectors
 * @param momentsPtr k (k + 1) / 2 + k vectors; the sums are over all four of their lanes
 */
export function accumulate(
  lumaPtr: usize, width: i32, okPtr: usize, x0: i32, y0: i32, x1: i32, y1: i32,
  offsetsPtr: usize, k: i32, scratchPtr: usize, momentsPtr: usize,
): i32 {
  const half = f32x4.splat(0.5);
  const quarter = f32x4.splat(0.25);
  const row = (<usize>width) << 2;
  let samples = 0;
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x += 8) {
      const at = <usize>(y * width + x);
      if (!load<u64>(okPtr + at)) continue;
      let any = 0;
      for (let n = 0; n < 8; n++) {
        const counts: f32 = x + n < x1 && load<u8>(okPtr + at + <usize>n) != 0 ? 1 : 0;
        store<f32>(scratchPtr + (<usize>n << 2), counts);
        any += <i32>counts;
      }
      if (!any) continue;
      samples += any;
      const maskA = v128.load(scratchPtr);
      const maskB = v128.load(scratchPtr, 16);
      const p = lumaPtr + (at << 2);
      const mA = f32x4.mul(quarter, f32x4.add(f32x4.add(v128.load(p - 4), v128.load(p + 4)), f32x4.add(v128.load(p - row), v128.load(p + row))));
      const q = p + 16;
      const mB = f32x4.mul(quarter, f32x4.add(f32x4.add(v128.load(q - 4), v128.load(q + 4)), f32x4.add(v128.load(q - row), v128.load(q + row))));
      for (let i = 0; i < k; i++) {
        const d = <isize>load<i32>(offsetsPtr + ((<usize>i) << 2));
        const a = f32x4.sub(f32x4.mul(half, f32x4.add(v128.load(p + d), v128.load(p - d))), mA);
        const b = f32x4.sub(f32x4.mul(half, f32x4.add(v128.load(q + d), v128.load(q - d))), mB);
        v128.store(scratchPtr + (<usize>i << 5), f32x4.mul(a, maskA));
        v128.store(scratchPtr + (<usize>i << 5), f32x4.mul(b, maskB), 16);
      }
      const targetA = f32x4.mul(f32x4.sub(v128.load(p), mA), maskA);
      const targetB = f32x4.mul(f32x4.sub(v128.load(q), mB), maskB);
      let out = momentsPtr;
      for (let i = 0; i < k; i++) {
        const a = v128.load(scratchPtr + (<usize>i << 5));
        const b = v128.load(scratchPtr + (<usize>i << 5), 16);
        let other = scratchPtr;
        for (let j = 0; j <= i; j++) {
          const both = f32x4.add(f32x4.mul(a, v128.load(other)), f32x4.mul(b, v128.load(other, 16)));
          v128.store(out, f32x4.add(v128.load(out), both));
          out += 16;
          other += 32;
        }
      }
      for (let i = 0; i < k; i++) {
        const a = v128.load(scratchPtr + (<usize>i << 5));
        const b = v128.load(scratchPtr + (<usize>i << 5), 16);
        v128.store(out, f32x4.add(v128.load(out), f32x4.add(f32x4.mul(a, targetA), f32x4.mul(b, targetB))));
        out += 16;
      }
    }
  }
  return samples;
}

/**
 * One Gauss–Seidel pass over the listed pixels. Each pixel uses the k weights of its tile for its pairs of neighbours, and leans
 * by its share in `leansPtr` towards its value in `joinsPtr` (four floats each).
 */
export function relax(
  imgPtr: usize,
  pixelsPtr: usize,
  count: i32,
  tilesPtr: usize,
  weightsPtr: usize,
  offsetsPtr: usize,
  k: i32,
  backwards: i32,
  omega: f32,
  leansPtr: usize,
  joinsPtr: usize,
): void {
  const w = f32x4.splat(omega);
  for (let n = 0; n < count; n++) {
    const i = backwards ? count - 1 - n : n;
    const p = imgPtr + ((<usize>load<i32>(pixelsPtr + ((<usize>i) << 2))) << 4);
    let a = weightsPtr + <usize>load<i32>(tilesPtr + ((<usize>i) << 2)) * ((<usize>k) << 2);
    // Two sums at a time, or each addition would wait for the one before.
    let sum = f32x4.splat(0);
    let other = f32x4.splat(0);
    let j = 0;
    for (; j + 1 < k; j += 2) {
      const d = <isize>load<i32>(offsetsPtr + ((<usize>j) << 2));
      const e = <isize>load<i32>(offsetsPtr + ((<usize>j) << 2), 4);
      sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(a), f32x4.add(v128.load(p + d), v128.load(p - d))));
      other = f32x4.add(other, f32x4.mul(v128.load32_splat(a, 4), f32x4.add(v128.load(p + e), v128.load(p - e))));
      a += 8;
    }
    if (j < k) {
      const d = <isize>load<i32>(offsetsPtr + ((<usize>j) << 2));
      sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(a), f32x4.add(v128.load(p + d), v128.load(p - d))));
    }
    sum = f32x4.add(sum, other);
    if (leansPtr) {
      const lean = load<f32>(leansPtr + ((<usize>i) << 2));
      if (lean > 0) {
        const join = v128.load(joinsPtr + ((<usize>i) << 4));
        sum = f32x4.add(sum, f32x4.mul(f32x4.splat(lean), f32x4.sub(join, sum)));
      }
    }
    const old = v128.load(p);
    v128.store(p, f32x4.add(old, f32x4.mul(w, f32x4.sub(sum, old))));
  }
}
