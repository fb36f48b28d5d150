/**
 * Solves linear equations given as rows with their right side at the end, which are changed (Gauss–Jordan elimination with partial
 * pivoting, a textbook method); null where a pivot is under `least`.
 */
export function solveRows(a: Float64Array[], least = 0): number[] | null {
  const n = a.length;
  for (let i = 0; i < n; i++) {
    let p = i;
    for (let r = i + 1; r < n; r++) if (Math.abs(a[r][i]) > Math.abs(a[p][i])) p = r;
    [a[i], a[p]] = [a[p], a[i]];
    if (Math.abs(a[i][i]) < least) return null;
    for (let r = 0; r < n; r++) {
      if (r === i) continue;
      const f = a[r][i] / a[i][i];
      for (let c = i; c <= n; c++) a[r][c] -= f * a[i][c];
    }
  }
  return a.map((row, i) => row[n] / row[i]);
}

/** Solves m d = rhs for a symmetric positive matrix given by its lower half (Cholesky); null when it is singular. */
export function solveSymmetric(m: Float64Array, rhs: Float64Array, n: number): Float64Array | null {
  const l = new Float64Array(n * n);
  for (let i = 0; i < n; i++) {
    for (let k = 0; k <= i; k++) {
      let s = m[i * n + k] + (i === k ? 1e-9 * m[i * n + i] : 0);
      for (let q = 0; q < k; q++) s -= l[i * n + q] * l[k * n + q];
      if (i === k) {
        if (!(s > 0)) return null;
        l[i * n + i] = Math.sqrt(s);
      } else l[i * n + k] = s / l[k * n + k];
    }
  }
  const d = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    let s = rhs[i];
    for (let q = 0; q < i; q++) s -= l[i * n + q] * d[q];
    d[i] = s / l[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    let s = d[i];
    for (let q = i + 1; q < n; q++) s -= l[q * n + i] * d[q];
    d[i] = s / l[i * n + i];
  }
  return d;
}
