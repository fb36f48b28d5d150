// Weighted membranes: each unknown is held to its neighbours with a weight and a step, and to a value of its own. Values are four
// floats a node.

/**
 * Over-relaxation sweeps, forwards and backwards in turn. `linksPtr`: right, left, below, above of each node or −1.
 * `weightsPtr`: weights of its links to the right and downwards. `stepsPtr`: what it has more than the neighbour there, four
 * floats a link. `heldPtr`: weight of its own pull; `pullsPtr`: that weight times where it pulls to.
 */
export function toneSweeps(
  valuePtr: usize, linksPtr: usize, weightsPtr: usize, stepsPtr: usize, heldPtr: usize, pullsPtr: usize,
  count: i32, sweeps: i32, omega: f32,
): void {
  for (let sweep = 0; sweep < sweeps; sweep++) {
    const back = (sweep & 1) == 1;
    const factor = f32x4.splat(sweep < 4 ? 1 : omega);
    for (let at = 0; at < count; at++) {
      const n = <usize>(back ? count - 1 - at : at);
      let total = load<f32>(heldPtr + (n << 2));
      let sum = v128.load(pullsPtr + (n << 4));
      for (let k: usize = 0; k < 4; k++) {
        const m = load<i32>(linksPtr + (((n << 2) + k) << 2));
        if (m < 0) continue;
        const own = (k & 1) == 0;
        const link = ((own ? n : <usize>m) << 1) + (k >> 1);
        const w = load<f32>(weightsPtr + (link << 2));
        if (w == 0) continue;
        total += w;
        const step = v128.load(stepsPtr + (link << 4));
        const other = v128.load(valuePtr + (<usize>m << 4));
        sum = f32x4.add(sum, f32x4.mul(f32x4.splat(w), own ? f32x4.add(other, step) : f32x4.sub(other, step)));
      }
      if (total <= 0) continue;
      const p = valuePtr + (n << 4);
      const old = v128.load(p);
      v128.store(p, f32x4.add(old, f32x4.mul(factor, f32x4.sub(f32x4.mul(sum, f32x4.splat(1 / total)), old))));
    }
  }
}
