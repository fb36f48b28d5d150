import type { Level } from './levels.ts';
import type { Pieces } from './pieces.ts';
import { relax, type Nodes } from './relax.ts';

/** Width in px of the edges around a place of a level; 0 where they are sharp. */
export type Softness = (x: number, y: number) => number;

/** What holds a pixel where edges are sharp to the tone it has, and how strongly a rim that is soft is pulled. */
const SHARP = 1e3;
const PULL = 4;

/**
 * Goes on with corrections of tone where the picture is soft: no edge is sharp there, so none may be at a seam or at the rim either.
 * What is left of each step fades out over as many px as edges are wide.
 *
 * @param solved four floats a node; what is found is added
 */
export function softened(
  { box, labels, moves }: Pieces,
  level: Level,
  nodes: Nodes,
  soft: Softness,
  solved: Float32Array,
): void {
  const { pixels, node, width } = nodes;
  const { height } = box;
  const count = pixels.length;
  const weights = new Float32Array(2 * count);
  const steps = new Float32Array(8 * count);
  const held = new Float32Array(count);
  const pulls = new Float32Array(4 * count);
  const wide = new Float32Array(count);
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const m = moves[labels[i]];
    wide[n] = soft(box.x + (i % width) + m.x, box.y + Math.floor(i / width) + m.y);
    held[n] = wide[n] ? 1 / wide[n] ** 2 : SHARP;
  }
  const at = (x: number, y: number) => {
    const i = y * level.width + x;
    return x >= 0 && y >= 0 && x < level.width && y < level.height && level.known[i] ? i : -1;
  };
  const step = new Float64Array(3);
  /** Adds what place `a` has more than place `b`; whether both can be read. */
  const more = (a: number, b: number) => {
    if (a < 0 || b < 0) return 0;
    for (let c = 0; c < 3; c++) step[c] += level.pixels[4 * a + c] - level.pixels[4 * b + c];
    return 1;
  };
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const x = i % width;
    const y = (i - x) / width;
    const [px, py] = [box.x + x, box.y + y];
    const own = moves[labels[i]];
    const rim = soft(px, py) > 0;
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = [k === 0 ? 1 : k === 1 ? -1 : 0, k === 2 ? 1 : k === 3 ? -1 : 0];
      const [u, v] = [x + dx, y + dy];
      const j = u >= 0 && v >= 0 && u < width && v < height ? v * width + u : -1;
      const m = j < 0 ? -1 : node[j];
      step.fill(0);
      if (m < 0) {
        const q = at(px + dx, py + dy);
        if (!rim || q < 0) continue;
        // Where what the piece would put there is not known, what it puts beside it is as good: edges are soft.
        if (!more(q, at(px + dx + own.x, py + dy + own.y)) && !more(q, at(px + own.x, py + own.y))) continue;
        held[n] += PULL;
        for (let c = 0; c < 3; c++) pulls[4 * n + c] += PULL * (step[c] - solved[4 * n + c]);
        continue;
      }
      if (k & 1) continue;
      const link = 2 * n + (k >> 1);
      if (labels[i] === labels[j]) {
        weights[link] = 1;
        continue;
      }
      const other = moves[labels[j]];
      let read = more(at(px + other.x, py + other.y), at(px + own.x, py + own.y));
      read += more(at(px + dx + other.x, py + dy + other.y), at(px + dx + own.x, py + dy + own.y));
      if (!read || !wide[n] || !wide[m]) continue;
      weights[link] = 1;
      for (let c = 0; c < 3; c++) steps[4 * link + c] = step[c] / read - (solved[4 * n + c] - solved[4 * m + c]);
    }
  }
  const rest = relax(nodes, { weights, steps, held, pulls });
  for (let n = 0; n < solved.length; n++) solved[n] += rest[n];
}
