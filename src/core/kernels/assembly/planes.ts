// Planes of one float a pixel.

/** Adds `weight` × (a + b) to `out`, `count` floats. */
// @ts-ignore: decorator
@inline
function addPair(out: usize, a: usize, b: usize, weight: f32, count: i32): void {
  const w = f32x4.splat(weight);
  let i = 0;
  for (; i + 4 <= count; i += 4) {
    const at = <usize>i << 2;
    v128.store(out + at, f32x4.add(v128.load(out + at), f32x4.mul(w, f32x4.add(v128.load(a + at), v128.load(b + at)))));
  }
  for (; i < count; i++) {
    const at = <usize>i << 2;
    store<f32>(out + at, load<f32>(out + at) + weight * (load<f32>(a + at) + load<f32>(b + at)));
  }
}

// @ts-ignore: decorator
@inline
function scaleInto(out: usize, a: usize, weight: f32, count: i32): void {
  const w = f32x4.splat(weight);
  let i = 0;
  for (; i + 4 <= count; i += 4) {
    const at = <usize>i << 2;
    v128.store(out + at, f32x4.mul(w, v128.load(a + at)));
  }
  for (; i < count; i++) {
    const at = <usize>i << 2;
    store<f32>(out + at, weight * load<f32>(a + at));
  }
}

/**
 * Separable symmetric blur; edges are repeated. `kernelPtr`: the kernel from its middle outwards, `r` + 1 floats; `rowPtr`: room for
 * width + 2 r floats; `midPtr`: room for a plane.
 */
export function blurPlane(
  sourcePtr: usize, width: i32, height: i32, kernelPtr: usize, r: i32, rowPtr: usize, midPtr: usize, outPtr: usize,
): void {
  const stride = <usize>width << 2;
  const middle = load<f32>(kernelPtr);
  for (let y = 0; y < height; y++) {
    const from = sourcePtr + <usize>y * stride;
    const first = load<f32>(from);
    const last = load<f32>(from + stride - 4);
    for (let k = 0; k < r; k++) {
      store<f32>(rowPtr + (<usize>k << 2), first);
      store<f32>(rowPtr + (<usize>(r + width + k) << 2), last);
    }
    memory.copy(rowPtr + (<usize>r << 2), from, stride);
    const to = midPtr + <usize>y * stride;
    scaleInto(to, from, middle, width);
    for (let k = 1; k <= r; k++) {
      const w = load<f32>(kernelPtr + (<usize>k << 2));
      addPair(to, rowPtr + (<usize>(r - k) << 2), rowPtr + (<usize>(r + k) << 2), w, width);
    }
  }
  for (let y = 0; y < height; y++) {
    const to = outPtr + <usize>y * stride;
    scaleInto(to, midPtr + <usize>y * stride, middle, width);
    for (let k = 1; k <= r; k++) {
      const w = load<f32>(kernelPtr + (<usize>k << 2));
      const above = midPtr + <usize>max(0, y - k) * stride;
      const below = midPtr + <usize>min(height - 1, y + k) * stride;
      addPair(to, above, below, w, width);
    }
  }
}

/** Mean over 2 r + 1 pixels to both sides, first along rows, then along columns; pixels outside count as 0. `sumPtr`: room for a row. */
export function boxMeanPlane(sourcePtr: usize, width: i32, height: i32, r: i32, sumPtr: usize, midPtr: usize, outPtr: usize): void {
  const stride = <usize>width << 2;
  const across = 2 * r + 1;
  const share: f32 = 1 / <f32>across;
  for (let y = 0; y < height; y++) {
    const from = sourcePtr + <usize>y * stride;
    const to = midPtr + <usize>y * stride;
    let sum: f64 = 0;
    for (let x = -r; x < width; x++) {
      if (x + r < width) sum += load<f32>(from + (<usize>(x + r) << 2));
      if (x - r - 1 >= 0) sum -= load<f32>(from + (<usize>(x - r - 1) << 2));
      if (x >= 0) store<f32>(to + (<usize>x << 2), <f32>sum * share);
    }
  }
  memory.fill(sumPtr, 0, stride);
  const s = f32x4.splat(share);
  for (let y = -r; y < height; y++) {
    const enters = y + r < height ? midPtr + <usize>(y + r) * stride : 0;
    const leaves = y - r - 1 >= 0 ? midPtr + <usize>(y - r - 1) * stride : 0;
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const at = <usize>x << 2;
      let sum = v128.load(sumPtr + at);
      if (enters) sum = f32x4.add(sum, v128.load(enters + at));
      if (leaves) sum = f32x4.sub(sum, v128.load(leaves + at));
      v128.store(sumPtr + at, sum);
      if (y >= 0) v128.store(outPtr + <usize>y * stride + at, f32x4.mul(sum, s));
    }
    for (; x < width; x++) {
      const at = <usize>x << 2;
      let sum = load<f32>(sumPtr + at);
      if (enters) sum += load<f32>(enters + at);
      if (leaves) sum -= load<f32>(leaves + at);
      store<f32>(sumPtr + at, sum);
      if (y >= 0) store<f32>(outPtr + <usize>y * stride + at, sum * share);
    }
  }
}
