import { solvePoisson, solvePoissonChannels } from './poisson.ts';

/** Solves the same equations directly, by Gaussian elimination. */
function direct(
  value: Float32Array,
  unknown: Uint8Array,
  width: number,
  height: number,
  rhs?: Float32Array,
): Float64Array {
  const ids: number[] = [];
  unknown.forEach((u, i) => u && ids.push(i));
  const n = ids.length;
  const rank = new Map(ids.map((id, k) => [id, k]));
  const a = ids.map(() => new Float64Array(n + 1));
  ids.forEach((i, k) => {
    const x = i % width;
    const y = (i - x) / width;
    a[k][n] = rhs?.[i] ?? 0;
    for (const [dx, dy] of [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ]) {
      if (x + dx < 0 || y + dy < 0 || x + dx >= width || y + dy >= height) continue;
      const j = i + dx + dy * width;
      a[k][k] += 1;
      const r = rank.get(j);
      if (r === undefined) a[k][n] += value[j];
      else a[k][r] -= 1;
    }
  });
  for (let k = 0; k < n; k++) {
    let p = k;
    for (let r = k; r < n; r++) if (Math.abs(a[r][k]) > Math.abs(a[p][k])) p = r;
    [a[k], a[p]] = [a[p], a[k]];
    for (let r = k + 1; r < n; r++) {
      const f = a[r][k] / a[k][k];
      if (f) for (let c = k; c <= n; c++) a[r][c] -= f * a[k][c];
    }
  }
  const out = new Float64Array(n);
  for (let k = n - 1; k >= 0; k--) {
    let s = a[k][n];
    for (let c = k + 1; c < n; c++) s -= a[k][c] * out[c];
    out[k] = s / a[k][k];
  }
  return out;
}

const W = 26;
const H = 22;
function problem() {
  const value = new Float32Array(W * H);
  const unknown = new Uint8Array(W * H);
  const rhs = new Float32Array(W * H);
  for (let i = 0; i < value.length; i++) {
    const x = i % W;
    const y = (i - x) / W;
    value[i] = 128 + 90 * Math.sin(x * 0.7) * Math.cos(y * 0.5);
    rhs[i] = 20 * Math.sin(i);
    // A blob, a thin strand and a piece that touches the picture's edge.
    if (Math.hypot(x - 12, y - 11) < 7 || y === 3 || (x < 3 && y > 15)) unknown[i] = 1;
  }
  return { value, unknown, rhs };
}

describe('Poisson solver', () => {
  test.each([false, true])('agrees with a direct solve (with sources: %s)', (sources) => {
    const { value, unknown, rhs } = problem();
    const expected = direct(value, unknown, W, H, sources ? rhs : undefined);
    solvePoisson(value, unknown, W, H, sources ? rhs : undefined, { tolerance: 0.001, cycles: 40 });
    let k = 0;
    let worst = 0;
    unknown.forEach((u, i) => {
      if (u) worst = Math.max(worst, Math.abs(value[i] - expected[k++]));
    });
    expect(worst).toBeLessThan(0.05);
  });

  test('continues a plane exactly, since planes are harmonic', () => {
    const value = new Float32Array(W * H).map((_, i) => 3 * (i % W) + 2 * Math.floor(i / W));
    const truth = value.slice();
    const unknown = new Uint8Array(W * H).map((_, i) => (Math.hypot((i % W) - 13, i / W - 11) < 8 ? 1 : 0));
    unknown.forEach((u, i) => u && (value[i] = 0));
    solvePoisson(value, unknown, W, H, undefined, { tolerance: 1e-4, cycles: 40 });
    unknown.forEach((u, i) => u && expect(Math.abs(value[i] - truth[i])).toBeLessThan(0.01));
  });

  test('channels solved together are those solved one by one, whatever their number', () => {
    const { value, unknown, rhs } = problem();
    const other = value.map((v, i) => 200 - 0.5 * v + (i % 7));
    for (const planes of [[value], [value, other, value], [other, value, other, value]]) {
      const together = planes.map((p) => p.slice());
      solvePoissonChannels(
        together,
        unknown,
        W,
        H,
        planes.map(() => rhs),
        { tolerance: 0.001, cycles: 40 },
      );
      planes.forEach((plane, c) => {
        const alone = plane.slice();
        solvePoisson(alone, unknown, W, H, rhs, { tolerance: 0.001, cycles: 40 });
        alone.forEach((v, i) => expect(Math.abs(v - together[c][i])).toBeLessThan(0.01));
      });
    }
  });

  test('nothing flows from what lies outside the domain, and a pixel with no neighbour in it keeps its value', () => {
    const value = new Float32Array(W * H).fill(50);
    const unknown = new Uint8Array(W * H);
    const outside = new Uint8Array(W * H).fill(1);
    for (let y = 4; y < 14; y++) for (let x = 4; x < 14; x++) unknown[y * W + x] = 1;
    // Known are a column of 10 to the left and one of 90 to the right; what is above and below takes no part.
    for (let y = 4; y < 14; y++) {
      [outside[y * W + 3], outside[y * W + 14]] = [0, 0];
      [value[y * W + 3], value[y * W + 14]] = [10, 90];
    }
    unknown[20 * W + 20] = 1;
    value[20 * W + 20] = 33;
    solvePoisson(value, unknown, W, H, undefined, { tolerance: 1e-4, cycles: 60, outside });
    for (let x = 4; x < 14; x++) expect(value[9 * W + x]).toBeCloseTo(10 + (80 * (x - 3)) / 11, 1);
    expect(value[20 * W + 20]).toBe(33);
  });
});
