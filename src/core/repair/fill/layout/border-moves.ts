import { LEAST_MOVE } from './common-moves.ts';
import type { Field, Move } from './field.ts';
import type { Level } from './levels.ts';

/** How many places of the border propose a move. */
const BORDERS = 24;

/** For patches along the border, where their known part is found best. */
export function borderMatches(field: Field, level: Level): Move[] {
  const { width, height, index, known, pixels, allowed } = field;
  const border: number[] = [];
  for (const p of pixels) {
    const x = p % width;
    const y = (p - x) / width;
    if (
      (x > 0 && index[p - 1] < 0) ||
      (x + 1 < width && index[p + 1] < 0) ||
      (y > 0 && index[p - width] < 0) ||
      (y + 1 < height && index[p + width] < 0)
    )
      border.push(p);
  }
  const step = Math.max(1, Math.floor(border.length / BORDERS));
  const out: Move[] = [];
  const R = 5;
  const luma = new Float32Array(width * height);
  for (let i = 0; i < luma.length; i++)
    luma[i] = 0.3 * level.pixels[4 * i] + 0.59 * level.pixels[4 * i + 1] + 0.11 * level.pixels[4 * i + 2];
  for (let n = step >> 1; n < border.length; n += step) {
    const p = border[n];
    const px = p % width;
    const py = (p - px) / width;
    const spots: number[] = [];
    for (let v = -R; v <= R; v++)
      for (let u = -R; u <= R; u++) {
        const [x, y] = [px + u, py + v];
        if (x < 0 || y < 0 || x >= width || y >= height || !known[y * width + x]) continue;
        spots.push(v * width + u);
      }
    if (spots.length < 12) continue;
    let best = Infinity;
    let move: Move | null = null;
    const look = (x: number, y: number) => {
      const q = y * width + x;
      if (!allowed[q]) return;
      let sum = 0;
      for (let k = 0; k < spots.length && sum < best; k++) {
        const a = 4 * (p + spots[k]);
        const b = 4 * (q + spots[k]);
        if (!known[q + spots[k]]) {
          sum = Infinity;
          break;
        }
        const r = level.pixels[a] - level.pixels[b];
        const g = level.pixels[a + 1] - level.pixels[b + 1];
        const c = level.pixels[a + 2] - level.pixels[b + 2];
        sum += r * r + g * g + c * c;
      }
      if (sum < best) {
        best = sum;
        move = { x: x - px, y: y - py };
      }
    };
    for (let y = R; y < height - R; y += 2)
      for (let x = R; x < width - R; x += 2) if (Math.abs(x - px) + Math.abs(y - py) >= LEAST_MOVE) look(x, y);
    const found = move as Move | null;
    if (!found) continue;
    const [fx, fy] = [px + found.x, py + found.y];
    for (let y = Math.max(R, fy - 1); y <= Math.min(height - R - 1, fy + 1); y++)
      for (let x = Math.max(R, fx - 1); x <= Math.min(width - R - 1, fx + 1); x++) look(x, y);
    if (move) out.push(move);
  }
  return out;
}
