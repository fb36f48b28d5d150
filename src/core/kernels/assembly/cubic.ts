// Cubic convolution at given places. Sums are doubles, in the order in which a plain loop over rows and columns would take them.

const WEIGHTS_X = memory.data(256);
const WEIGHTS_Y = memory.data(256);

// @ts-ignore: decorator
@inline
function cubic(t: f64): f64 {
  if (t < 1) return (1.5 * t - 2.5) * t * t + 1;
  if (t < 2) return ((-0.5 * t + 2.5) * t - 4) * t + 2;
  return 0;
}

function weigh(weights: usize, place: f64, first: i32, stretch: f64): i32 {
  const last = <i32>Math.ceil(place + 2 * stretch) - 1;
  for (let u = first; u <= last; u++)
    store<f64>(weights + (<usize>(u - first) << 3), cubic(Math.abs(<f64>u - place) / stretch));
  return last - first + 1;
}

// @ts-ignore: decorator
@inline
function pixelAt(address: usize, bytes: i32): v128 {
  return bytes == 1
    ? i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(address)))
    : i32x4.extend_low_i16x8_u(v128.load64_zero(address));
}

/**
 * Colours of `count` places, two doubles each at `placesPtr` (px of the source, pixel centres at whole numbers). Where
 * `wantedPtr` holds 0 nothing is done. `bytes` a sample, `channels` a pixel, `colours` (1 or 3) floats a place at `outPtr`.
 */
export function cubicAt(
  sourcePtr: usize, width: i32, height: i32, channels: i32, bytes: i32, colours: i32,
  placesPtr: usize, wantedPtr: usize, count: i32, stretch: f64, outPtr: usize,
): void {
  const size = <usize>(channels * bytes);
  for (let i: usize = 0; i < <usize>count; i++) {
    if (!load<u8>(wantedPtr + i)) continue;
    const sx = load<f64>(placesPtr + (i << 4));
    const sy = load<f64>(placesPtr + (i << 4), 8);
    const x0 = <i32>Math.floor(sx - 2 * stretch) + 1;
    const y0 = <i32>Math.floor(sy - 2 * stretch) + 1;
    const nx = weigh(WEIGHTS_X, sx, x0, stretch);
    const ny = weigh(WEIGHTS_Y, sy, y0, stretch);
    const inside = x0 >= 0 && x0 + nx <= width;
    // low: the first two colours; high: the third and the weights.
    let low = f64x2.splat(0);
    let high = f64x2.splat(0);
    for (let v = 0; v < ny; v++) {
      const wy = load<f64>(WEIGHTS_Y + (<usize>v << 3));
      if (wy == 0) continue;
      const row = sourcePtr + <usize>min(height - 1, max(0, y0 + v)) * <usize>width * size;
      for (let u = 0; u < nx; u++) {
        const column = inside ? x0 + u : min(width - 1, max(0, x0 + u));
        const pixel = pixelAt(row + <usize>column * size, bytes);
        const weight = f64x2.splat(wy * load<f64>(WEIGHTS_X + (<usize>u << 3)));
        const third = f64x2.convert_low_i32x4_u(v128.shuffle<u32>(pixel, pixel, 2, 2, 2, 2));
        low = f64x2.add(low, f64x2.mul(weight, f64x2.convert_low_i32x4_u(pixel)));
        high = f64x2.add(high, f64x2.mul(weight, f64x2.replace_lane(third, 1, 1)));
      }
    }
    const total = f64x2.extract_lane(high, 1);
    const q = outPtr + i * <usize>colours * 4;
    store<f32>(q, <f32>(f64x2.extract_lane(low, 0) / total));
    if (colours == 3) {
      store<f32>(q, <f32>(f64x2.extract_lane(low, 1) / total), 4);
      store<f32>(q, <f32>(f64x2.extract_lane(high, 0) / total), 8);
    }
  }
}
