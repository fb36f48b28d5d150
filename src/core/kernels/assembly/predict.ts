// Local Gaussian prediction: a symmetric conditional autoregressive model, fitted by least squares and solved on
// the covered pixels by Gauss–Seidel. Images are four floats a pixel; addresses are in bytes.

/**
 * Adds the samples of one tile to the normal equations. For a sample p with fully known surroundings,
 * u_k = (x[p+d_k] + x[p-d_k]) / 2 − m, y = x[p] − m, with m the mean of the four direct neighbours, so that the
 * model without evidence is the membrane. `okPtr` marks usable samples; `momentsPtr` receives K(K+1)/2 + K sums,
 * each over the four lanes.
 */
export function accumulate(
  imgPtr: usize,
  width: i32,
  okPtr: usize,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  offsetsPtr: usize,
  k: i32,
  scratchPtr: usize,
  momentsPtr: usize,
): i32 {
  const half = f32x4.splat(0.5);
  const quarter = f32x4.splat(0.25);
  const row = (<usize>width) << 4;
  let samples = 0;
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x++) {
      const at = <usize>(y * width + x);
      if (!load<u8>(okPtr + at)) continue;
      samples++;
      const p = imgPtr + (at << 4);
      const m = f32x4.mul(
        f32x4.add(f32x4.add(v128.load(p - 16), v128.load(p + 16)), f32x4.add(v128.load(p - row), v128.load(p + row))),
        quarter,
      );
      for (let i = 0; i < k; i++) {
        const d = <isize>load<i32>(offsetsPtr + ((<usize>i) << 2));
        const pair = f32x4.add(v128.load(p + d), v128.load(p - d));
        v128.store(scratchPtr + ((<usize>i) << 4), f32x4.sub(f32x4.mul(pair, half), m));
      }
      const target = f32x4.sub(v128.load(p), m);
      let out = momentsPtr;
      for (let i = 0; i < k; i++) {
        const a = v128.load(scratchPtr + ((<usize>i) << 4));
        for (let j = 0; j <= i; j++) {
          const b = v128.load(scratchPtr + ((<usize>j) << 4));
          v128.store(out, f32x4.add(v128.load(out), f32x4.mul(a, b)));
          out += 16;
        }
      }
      for (let i = 0; i < k; i++) {
        const a = v128.load(scratchPtr + ((<usize>i) << 4));
        v128.store(out, f32x4.add(v128.load(out), f32x4.mul(a, target)));
        out += 16;
      }
    }
  }
  return samples;
}

/** One Gauss–Seidel pass over the listed pixels. Each pixel uses the k weights of its tile for its pairs of neighbours. */
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
): void {
  const w = f32x4.splat(omega);
  for (let n = 0; n < count; n++) {
    const i = backwards ? count - 1 - n : n;
    const p = imgPtr + ((<usize>load<i32>(pixelsPtr + ((<usize>i) << 2))) << 4);
    let a = weightsPtr + <usize>load<i32>(tilesPtr + ((<usize>i) << 2)) * ((<usize>k) << 2);
    let sum = f32x4.splat(0);
    for (let j = 0; j < k; j++) {
      const d = <isize>load<i32>(offsetsPtr + ((<usize>j) << 2));
      sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(a), f32x4.add(v128.load(p + d), v128.load(p - d))));
      a += 4;
    }
    const old = v128.load(p);
    v128.store(p, f32x4.add(old, f32x4.mul(w, f32x4.sub(sum, old))));
  }
}
