/** A stretch of a closed line, samples `from` to `to`, which may run over its end. */
export interface Run {
  from: number;
  to: number;
  length: number;
}

/** Stretches of a closed line of `n` samples where something holds, over gaps of at most `gap` samples. */
export function runsOf(n: number, holds: (i: number) => boolean, least: number, gap = 2): Run[] {
  const on = Array.from({ length: n }, (_, i) => holds(i));
  const start = on.indexOf(false);
  if (start < 0) return n >= least ? [{ from: 0, to: n - 1, length: n }] : [];
  const out: Run[] = [];
  let [from, last] = [-1, -1];
  for (let k = 0; k <= n; k++) {
    const there = k < n && on[(start + k) % n];
    if (there) {
      if (from < 0) from = k;
      last = k;
    } else if (from >= 0 && (k - last > gap || k === n)) {
      if (last - from + 1 >= least) out.push({ from: start + from, to: start + last, length: last - from + 1 });
      from = -1;
    }
  }
  return out;
}

/** Mean over samples of a stretch. */
export function meanOver({ from, to }: Run, n: number, of: (i: number) => number): number {
  let sum = 0;
  let count = 0;
  for (let k = from; k <= to; k++) {
    const v = of(k % n);
    if (v !== v) continue;
    sum += v;
    count++;
  }
  return count ? sum / count : 0;
}
