// Planes of one float a pixel.

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
    const left = rowPtr + (<usize>r << 2);
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const at = left + (<usize>x << 2);
      let sum = f32x4.mul(f32x4.splat(middle), v128.load(at));
      for (let k = 1; k <= r; k++) {
        const off = <usize>k << 2;
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(kernelPtr + off), f32x4.add(v128.load(at - off), v128.load(at + off))));
      }
      v128.store(to + (<usize>x << 2), sum);
    }
    for (; x < width; x++) {
      const at = left + (<usize>x << 2);
      let sum = middle * load<f32>(at);
      for (let k = 1; k <= r; k++) {
        const off = <usize>k << 2;
        sum += load<f32>(kernelPtr + off) * (load<f32>(at - off) + load<f32>(at + off));
      }
      store<f32>(to + (<usize>x << 2), sum);
    }
  }
  for (let y = 0; y < height; y++) {
    const to = outPtr + <usize>y * stride;
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const at = <usize>x << 2;
      let sum = f32x4.mul(f32x4.splat(middle), v128.load(midPtr + <usize>y * stride + at));
      for (let k = 1; k <= r; k++) {
        const above = midPtr + <usize>max(0, y - k) * stride + at;
        const below = midPtr + <usize>min(height - 1, y + k) * stride + at;
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(kernelPtr + (<usize>k << 2)), f32x4.add(v128.load(above), v128.load(below))));
      }
      v128.store(to + at, sum);
    }
    for (; x < width; x++) {
      const at = <usize>x << 2;
      let sum = middle * load<f32>(midPtr + <usize>y * stride + at);
      for (let k = 1; k <= r; k++) {
        const above = midPtr + <usize>max(0, y - k) * stride + at;
        const below = midPtr + <usize>min(height - 1, y + k) * stride + at;
        sum += load<f32>(kernelPtr + (<usize>k << 2)) * (load<f32>(above) + load<f32>(below));
      }
      store<f32>(to + at, sum);
    }
  }
}

/** Mean over 2 r + 1 pixels to both sides, first along rows, then along columns; pixels outside count as 0. `sumPtr`: room for a row. */
export function boxMeanPlane(sourcePtr: usize, width: i32, height: i32, r: i32, sumPtr: usize, midPtr: usize, outPtr: usize): void {
  const stride = <usize>width << 2;
  const across = 2 * r + 1;
  const share: f32 = 1 / <f32>across;
  // Four rows at a time, whose sums do not wait for each other.
  let row = 0;
  for (; row + 4 <= height; row += 4) {
    const from = sourcePtr + <usize>row * stride;
    const to = midPtr + <usize>row * stride;
    let a: f64 = 0;
    let b: f64 = 0;
    let c: f64 = 0;
    let d: f64 = 0;
    for (let x = -r; x < width; x++) {
      if (x + r < width) {
        const p = from + (<usize>(x + r) << 2);
        a += load<f32>(p);
        b += load<f32>(p + stride);
        c += load<f32>(p + 2 * stride);
        d += load<f32>(p + 3 * stride);
      }
      if (x - r - 1 >= 0) {
        const p = from + (<usize>(x - r - 1) << 2);
        a -= load<f32>(p);
        b -= load<f32>(p + stride);
        c -= load<f32>(p + 2 * stride);
        d -= load<f32>(p + 3 * stride);
      }
      if (x >= 0) {
        const p = to + (<usize>x << 2);
        store<f32>(p, <f32>a * share);
        store<f32>(p + stride, <f32>b * share);
        store<f32>(p + 2 * stride, <f32>c * share);
        store<f32>(p + 3 * stride, <f32>d * share);
      }
    }
  }
  for (; row < height; row++) {
    const from = sourcePtr + <usize>row * stride;
    const to = midPtr + <usize>row * stride;
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
