// Logistic regression for the finders' scores.
export interface Labelled {
  x: number[];
  y: 0 | 1;
}
export interface Model {
  w: number[];
  b: number;
}

/** Logistic regression on standardised features, by Newton's method with a little ridge. */
function fit(data: Labelled[]): Model {
  const n = data[0].x.length;
  const mean = Array.from({ length: n }, (_, k) => data.reduce((s, r) => s + r.x[k], 0) / data.length);
  const sd = mean.map((m, k) => Math.sqrt(data.reduce((s, r) => s + (r.x[k] - m) ** 2, 0) / data.length) || 1);
  const points = data.map((r) => [1, ...r.x.map((v, k) => (v - mean[k]) / sd[k])]);
  const w = new Array<number>(n + 1).fill(0);
  for (let step = 0; step < 25; step++) {
    const a = w.map((_, i) => [...w.map((__, j) => (i === j ? 1 : 0)), -w[i]]);
    points.forEach((x, r) => {
      const p = 1 / (1 + Math.exp(-x.reduce((s, v, k) => s + v * w[k], 0)));
      for (let i = 0; i <= n; i++) {
        a[i][n + 1] += (data[r].y - p) * x[i];
        for (let j = 0; j <= n; j++) a[i][j] += p * (1 - p) * x[i] * x[j];
      }
    });
    for (let i = 0; i <= n; i++) {
      for (let j = i + 1; j <= n; j++) {
        const f = a[j][i] / a[i][i];
        for (let k = i; k <= n + 1; k++) a[j][k] -= f * a[i][k];
      }
    }
    for (let i = n; i >= 0; i--) {
      for (let k = i + 1; k <= n; k++) a[i][n + 1] -= a[i][k] * a[k][n + 1];
      a[i][n + 1] /= a[i][i];
      w[i] += a[i][n + 1];
    }
  }
  const real = w.slice(1).map((v, k) => v / sd[k]);
  return { w: real, b: w[0] - real.reduce((s, v, k) => s + v * mean[k], 0) };
}
export const scoreOf = (m: Model, x: number[]) => 1 / (1 + Math.exp(-(m.b + x.reduce((s, v, k) => s + v * m.w[k], 0))));
/** Old photographs have dust of their own: what a first fit takes for specks is left out of the second and third. */
export function fitLogistic(data: Labelled[]): Model {
  let model = fit(data);
  for (const limit of [0.3, 0.5]) model = fit(data.filter((r) => r.y === 1 || scoreOf(model, r.x) < limit));
  return model;
}
