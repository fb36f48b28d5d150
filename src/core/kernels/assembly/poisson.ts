// Poisson equation on the unknown pixels of a grid: smoothing, residuals and conjugate gradients. A node is four floats, one a
// channel; node `count` is always zero and stands for every neighbour that is not unknown. Links and parents are byte offsets.

/** Inverse of the number of neighbours, and that number, for 0 to 4 of them. */
const INVERSE = memory.data(80);
const NUMBER = memory.data(80);

/** To be called once. */
export function poissonOpen(): void {
  for (let d: usize = 0; d <= 4; d++) {
    v128.store(INVERSE + (d << 4), f32x4.splat(d ? 1 / <f32>d : 0));
    v128.store(NUMBER + (d << 4), f32x4.splat(<f32>d));
  }
}

// @ts-ignore: decorator
@inline
function around(valuePtr: usize, linkPtr: usize): v128 {
  return f32x4.add(
    f32x4.add(v128.load(valuePtr + load<u32>(linkPtr)), v128.load(valuePtr + load<u32>(linkPtr, 4))),
    f32x4.add(v128.load(valuePtr + load<u32>(linkPtr, 8)), v128.load(valuePtr + load<u32>(linkPtr, 12))),
  );
}

/** Relaxes the nodes from `first` up to `last`, which are not neighbours of each other. */
export function poissonRelax(
  valuePtr: usize, rhsPtr: usize, linksPtr: usize, degreePtr: usize, first: i32, last: i32, omega: f32,
): void {
  const factor = f32x4.splat(omega);
  for (let n = <usize>first; n < <usize>last; n++) {
    const sum = f32x4.add(v128.load(rhsPtr + (n << 4)), around(valuePtr, linksPtr + (n << 4)));
    const p = valuePtr + (n << 4);
    const old = v128.load(p);
    const wanted = f32x4.mul(sum, v128.load(INVERSE + (<usize>load<u8>(degreePtr + n) << 4)));
    v128.store(p, f32x4.add(old, f32x4.mul(factor, f32x4.sub(wanted, old))));
  }
}

/** outPtr ← rhs − degree · value + Σ neighbours. */
export function poissonResidual(
  valuePtr: usize, rhsPtr: usize, linksPtr: usize, degreePtr: usize, outPtr: usize, count: i32,
): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const sum = f32x4.add(v128.load(rhsPtr + (n << 4)), around(valuePtr, linksPtr + (n << 4)));
    const own = f32x4.mul(v128.load(valuePtr + (n << 4)), v128.load(NUMBER + (<usize>load<u8>(degreePtr + n) << 4)));
    v128.store(outPtr + (n << 4), f32x4.sub(sum, own));
  }
}

/** Adds the residual of each node to the right side of its parent. */
export function poissonRestrict(
  valuePtr: usize, rhsPtr: usize, linksPtr: usize, degreePtr: usize, parentsPtr: usize, belowPtr: usize, count: i32,
): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const sum = f32x4.add(v128.load(rhsPtr + (n << 4)), around(valuePtr, linksPtr + (n << 4)));
    const own = f32x4.mul(v128.load(valuePtr + (n << 4)), v128.load(NUMBER + (<usize>load<u8>(degreePtr + n) << 4)));
    const q = belowPtr + load<u32>(parentsPtr + (n << 2));
    v128.store(q, f32x4.add(v128.load(q), f32x4.sub(sum, own)));
  }
}

/** Adds the correction of its parent to each node. */
export function poissonProlong(valuePtr: usize, parentsPtr: usize, correctionPtr: usize, count: i32): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const p = valuePtr + (n << 4);
    v128.store(p, f32x4.add(v128.load(p), v128.load(correctionPtr + load<u32>(parentsPtr + (n << 2)))));
  }
}

/** Four sums of products, as doubles at `outPtr`. */
export function poissonDot(aPtr: usize, bPtr: usize, outPtr: usize, count: i32): void {
  let low = f64x2.splat(0);
  let high = f64x2.splat(0);
  for (let n: usize = 0; n < <usize>count; n++) {
    const a = v128.load(aPtr + (n << 4));
    const b = v128.load(bPtr + (n << 4));
    low = f64x2.add(low, f64x2.mul(f64x2.promote_low_f32x4(a), f64x2.promote_low_f32x4(b)));
    const upperA = v128.shuffle<u64>(a, a, 1, 1);
    const upperB = v128.shuffle<u64>(b, b, 1, 1);
    high = f64x2.add(high, f64x2.mul(f64x2.promote_low_f32x4(upperA), f64x2.promote_low_f32x4(upperB)));
  }
  v128.store(outPtr, low);
  v128.store(outPtr, high, 16);
}

/** `aPtr` ← −A · p, and the four sums of p · A · p as doubles at `outPtr`. */
export function poissonApply(
  pPtr: usize, linksPtr: usize, degreePtr: usize, aPtr: usize, outPtr: usize, count: i32,
): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const own = f32x4.mul(v128.load(pPtr + (n << 4)), v128.load(NUMBER + (<usize>load<u8>(degreePtr + n) << 4)));
    v128.store(aPtr + (n << 4), f32x4.sub(around(pPtr, linksPtr + (n << 4)), own));
  }
  poissonDot(pPtr, aPtr, outPtr, count);
}

/** x += α p, r += α a; the largest change of each channel is left at `alphaPtr`. */
export function poissonStep(xPtr: usize, rPtr: usize, pPtr: usize, aPtr: usize, alphaPtr: usize, count: i32): void {
  const alpha = v128.load(alphaPtr);
  let most = f32x4.splat(0);
  for (let n: usize = 0; n < <usize>count; n++) {
    const at = n << 4;
    const step = f32x4.mul(alpha, v128.load(pPtr + at));
    v128.store(xPtr + at, f32x4.add(v128.load(xPtr + at), step));
    v128.store(rPtr + at, f32x4.add(v128.load(rPtr + at), f32x4.mul(alpha, v128.load(aPtr + at))));
    most = f32x4.max(most, f32x4.abs(step));
  }
  v128.store(alphaPtr, most);
}

/** p ← z + β p. */
export function poissonTurn(pPtr: usize, zPtr: usize, betaPtr: usize, count: i32): void {
  const beta = v128.load(betaPtr);
  for (let n: usize = 0; n < <usize>count; n++) {
    const p = pPtr + (n << 4);
    v128.store(p, f32x4.add(v128.load(zPtr + (n << 4)), f32x4.mul(beta, v128.load(p))));
  }
}
