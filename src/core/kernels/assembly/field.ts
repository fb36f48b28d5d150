// The pixels that layouts are decided on: a window `width` columns wide, of which posed copies may stand below its `height` rows, up to
// `rows`; features are 12 floats a pixel.

export let features: usize = 0;
export let known: usize = 0;
export let allowed: usize = 0;
export let width: i32 = 0;
export let height: i32 = 0;
export let rows: i32 = 0;
export let unreadable: f32 = 0;

/** Names the field that `moves` and `expansion` work on, and what a place costs that cannot be read. */
export function fieldOpen(
  featuresPtr: usize, knownPtr: usize, allowedPtr: usize, columns: i32, windowRows: i32, allRows: i32, unknownCost: f32,
): void {
  features = featuresPtr;
  known = knownPtr;
  allowed = allowedPtr;
  width = columns;
  height = windowRows;
  rows = allRows;
  unreadable = unknownCost;
}

/** Distance of two pixels by their features. */
// @ts-ignore: decorator
@inline
export function distance(a: i32, b: i32): f32 {
  const p = features + <usize>a * 48;
  const q = features + <usize>b * 48;
  const d = f32x4.sub(v128.load(p), v128.load(q));
  const e = f32x4.sub(v128.load(p, 16), v128.load(q, 16));
  const g = f32x4.sub(v128.load(p, 32), v128.load(q, 32));
  const s = f32x4.add(f32x4.add(f32x4.mul(d, d), f32x4.mul(e, e)), f32x4.mul(g, g));
  return sqrt<f32>(
    f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1) + (f32x4.extract_lane(s, 2) + f32x4.extract_lane(s, 3)),
  );
}
