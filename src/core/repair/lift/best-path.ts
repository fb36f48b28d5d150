/** px that a path may run aside from one row to the next. */
const ASIDE = 3;

/**
 * The path with the highest sum of scores, closed unless it is said to be open; a score for each row and offset from −reach to reach.
 * @param costs of running aside by 1 px (squared), and of each px away from 0
 * @returns the offset at each row.
 * Source: dynamic programming, twice where the band closes on itself (common practice).
 */
export function bestPath(
  scores: Float32Array,
  rows: number,
  reach: number,
  { bent, away, open = false }: { bent: number; away: number; open?: boolean },
): Int16Array {
  const columns = 2 * reach + 1;
  const run = (scores: Float32Array, start: number | null): Int16Array => {
    let total = new Float64Array(columns).fill(start === null ? 0 : -Infinity);
    if (start !== null) total[start] = 0;
    const back = new Int8Array(rows * columns);
    for (let row = 0; row < rows; row++) {
      const next = new Float64Array(columns).fill(-Infinity);
      for (let k = 0; k < columns; k++) {
        for (let by = -ASIDE; by <= ASIDE; by++) {
          const from = k - by;
          if (from < 0 || from >= columns) continue;
          // A line that runs on as it did is the likelier one.
          const value = total[from] - bent * by * by;
          if (value <= next[k]) continue;
          next[k] = value;
          back[row * columns + k] = by;
        }
        next[k] += scores[row * columns + k] - away * Math.abs(k - reach);
      }
      total = next;
    }
    let at = start ?? total.indexOf(Math.max(...total));
    if (total[at] === -Infinity) at = total.indexOf(Math.max(...total));
    const path = new Int16Array(rows);
    for (let row = rows - 1; row >= 0; row--) {
      path[row] = at - reach;
      at -= back[row * columns + at];
    }
    return path;
  };
  if (open) return run(scores, null);
  // Once without a fixed start, to learn where half-way round the path surely passes; then from there round.
  const half = rows >> 1;
  const turned = new Float32Array(scores.length);
  turned.set(scores.subarray((half + 1) * columns), 0);
  turned.set(scores.subarray(0, (half + 1) * columns), (rows - half - 1) * columns);
  const path = run(turned, run(scores, null)[half] + reach);
  return Int16Array.from(path, (_, row) => path[(row + rows - half - 1) % rows]);
}
