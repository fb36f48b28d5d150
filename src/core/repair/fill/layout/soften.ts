import type { Move } from './field.ts';
import type { Level } from './levels.ts';
import type { Pieces } from './pieces.ts';
import { relax, type Nodes } from './relax.ts';

/** Width in px of the edges around a place of a level; 0 where they are sharp. */
export type Softness = (x: number, y: number) => number;

/** What holds a pixel where edges are sharp to the tone it has, and how strongly a rim that is soft is pulled. */
const SHARP = 1e3;
const PULL = 4;
/** Right, left, down, up. */
const STEPS = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;

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
  const reader = new StepReader(level);
  const rim = (n: number, px: number, py: number, dx: number, dy: number, own: Move) => {
    // Where what the piece would put there is not known, what it puts beside it is as good: edges are soft.
    const [qx, qy] = [px + dx, py + dy];
    if (!reader.read([qx, qy, qx + own.x, qy + own.y]) && !reader.read([qx, qy, px + own.x, py + own.y])) return;
    held[n] += PULL;
    for (let c = 0; c < 3; c++) pulls[4 * n + c] += PULL * (reader.step[c] - solved[4 * n + c]);
  };
  const seam = (n: number, m: number, link: number, px: number, py: number, own: Move, other: Move) => {
    if (!wide[n] || !wide[m]) return;
    const [dx, dy] = link & 1 ? [0, 1] : [1, 0];
    const here = [px + other.x, py + other.y, px + own.x, py + own.y] as const;
    const there = [here[0] + dx, here[1] + dy, here[2] + dx, here[3] + dy] as const;
    if (!reader.read(here, there)) return;
    weights[link] = 1;
    for (let c = 0; c < 3; c++) steps[4 * link + c] = reader.step[c] - (solved[4 * n + c] - solved[4 * m + c]);
  };
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const x = i % width;
    const y = (i - x) / width;
    const [px, py] = [box.x + x, box.y + y];
    const own = moves[labels[i]];
    const isSoft = soft(px, py) > 0;
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = STEPS[k];
      const [u, v] = [x + dx, y + dy];
      const inside = u >= 0 && v >= 0 && u < width && v < height;
      const j = inside ? v * width + u : -1;
      const m = inside ? node[j] : -1;
      if (m < 0 && isSoft) rim(n, px, py, dx, dy, own);
      if (m < 0 || k & 1) continue;
      const link = 2 * n + (k >> 1);
      if (labels[i] === labels[j]) weights[link] = 1;
      else seam(n, m, link, px, py, own, moves[labels[j]]);
    }
  }
  const rest = relax(nodes, { weights, steps, held, pulls });
  for (let n = 0; n < solved.length; n++) solved[n] += rest[n];
}

/** A place and another one to compare it with: x, y, x, y. */
type Pair = readonly [number, number, number, number];

/** Reads what places of a level have more than others. */
class StepReader {
  readonly step = new Float64Array(3);

  constructor(private readonly level: Level) {}

  /** Puts the mean of what the first place of each pair has more into `step`; whether any pair could be read. */
  read(...pairs: readonly Pair[]): boolean {
    const { step, level } = this;
    step.fill(0);
    let read = 0;
    for (const [ax, ay, bx, by] of pairs) {
      const [a, b] = [this.at(ax, ay), this.at(bx, by)];
      if (a < 0 || b < 0) continue;
      for (let c = 0; c < 3; c++) step[c] += level.pixels[4 * a + c] - level.pixels[4 * b + c];
      read++;
    }
    for (let c = 0; c < 3; c++) step[c] /= read || 1;
    return read > 0;
  }

  private at(x: number, y: number): number {
    const { width, height, known } = this.level;
    const i = y * width + x;
    return x >= 0 && y >= 0 && x < width && y < height && known[i] ? i : -1;
  }
}
