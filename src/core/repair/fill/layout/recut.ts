import type { Move } from './field.ts';
import type { Level } from './levels.ts';
import { ABOVE, BELOW, LEFT, MaxFlow, RIGHT } from '../../../kernels/max-flow.ts';
import { at, colourDifference, UNREAD, type Pieces } from './pieces.ts';

/** How far in px a seam is moved. */
const BAND = 2;
/** Cost of what must not be. */
const FIXED = 1 << 22;

/** Cuts every seam anew within {@link BAND} px of where it is, pair of pieces by pair. */
export function recut(pieces: Pieces, level: Level): void {
  const { box, labels } = pieces;
  const { width, height } = box;
  // Pixels near a seam, by the pair of pieces that meet there.
  const seams = new Map<number, number[]>();
  const many = pieces.moves.length;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (labels[i] < 0) continue;
      for (let k = 0; k < 2; k++) {
        if (k === 0 ? x + 1 >= width : y + 1 >= height) continue;
        const j = k === 0 ? i + 1 : i + width;
        if (labels[j] < 0 || labels[j] === labels[i]) continue;
        const [a, b] = labels[i] < labels[j] ? [labels[i], labels[j]] : [labels[j], labels[i]];
        const key = a * many + b;
        const list = seams.get(key);
        if (list) list.push(i, j);
        else seams.set(key, [i, j]);
      }
    }
  }
  const cutter = new SeamCutter(pieces, level);
  for (const key of [...seams.keys()].sort((a, b) => a - b))
    cutter.cut(Math.floor(key / many), key % many, seams.get(key)!);
}

/** Cuts between two pieces in a band along their seam; all else stays. */
class SeamCutter {
  private readonly node: Int32Array;
  private readonly flow = new MaxFlow();

  constructor(
    private readonly pieces: Pieces,
    private readonly level: Level,
  ) {
    this.node = new Int32Array(pieces.labels.length).fill(-1);
  }

  cut(a: number, b: number, seam: readonly number[]): void {
    const { labels, box, moves } = this.pieces;
    const { width, height } = box;
    const nodes: number[] = [];
    for (const i of seam) {
      const x = i % width;
      const y = (i - x) / width;
      for (let v = Math.max(0, y - BAND); v <= Math.min(height - 1, y + BAND); v++) {
        for (let u = Math.max(0, x - BAND); u <= Math.min(width - 1, x + BAND); u++) {
          const j = v * width + u;
          if ((labels[j] !== a && labels[j] !== b) || this.node[j] >= 0) continue;
          this.node[j] = nodes.length;
          nodes.push(j);
        }
      }
    }
    this.flow.begin(nodes.length);
    const { neighbours, capacity, terminal } = this.flow;
    const differs = new Int32Array(nodes.length);
    nodes.forEach((j, n) => {
      const x = box.x + (j % width);
      const y = box.y + Math.floor(j / width);
      differs[n] = this.between(x, y, moves[a], moves[b]);
      // Source side keeps `a`, sink side `b`.
      terminal[n] = 0;
      if (!this.allows(x, y, moves[b])) terminal[n] += FIXED;
      if (!this.allows(x, y, moves[a])) terminal[n] -= FIXED;
    });
    nodes.forEach((j, n) => {
      const x = j % width;
      const y = (j - x) / width;
      for (let k = 0; k < 4; k++) {
        const u = x + (k === RIGHT ? 1 : k === LEFT ? -1 : 0);
        const v = y + (k === BELOW ? 1 : k === ABOVE ? -1 : 0);
        const [wx, wy] = [box.x + u, box.y + v];
        if (wx < 0 || wy < 0 || wx >= this.level.width || wy >= this.level.height) continue;
        const inside = u >= 0 && v >= 0 && u < width && v < height;
        const q = inside ? v * width + u : -1;
        const m = q >= 0 ? this.node[q] : -1;
        if (m >= 0) {
          neighbours[4 * n + k] = m;
          capacity[4 * n + k] = differs[n] + differs[m];
          continue;
        }
        const other = q >= 0 ? labels[q] : -1;
        if (other < 0 && !this.level.known[wy * this.level.width + wx]) continue;
        const [px, py] = [box.x + x, box.y + y];
        const cost = (own: number) => {
          if (own === other) return 0;
          if (other < 0) return 2 * this.toKnown(wx, wy, moves[own]);
          return this.between(px, py, moves[own], moves[other]) + this.between(wx, wy, moves[own], moves[other]);
        };
        terminal[n] += cost(b) - cost(a);
      }
    });
    this.flow.cut();
    nodes.forEach((j, n) => {
      const side = this.flow.side(n);
      if (side) labels[j] = side === 'sink' ? b : a;
    });
    for (const j of nodes) this.node[j] = -1;
  }

  private allows(x: number, y: number, move: Move): boolean {
    const d = at(this.level, x, y, move);
    return d >= 0 && this.level.allowed[d] === 1;
  }

  private between(x: number, y: number, a: Move, b: Move): number {
    const p = at(this.level, x, y, a);
    const q = at(this.level, x, y, b);
    if (p < 0 || q < 0 || !this.level.known[p] || !this.level.known[q]) return UNREAD;
    return colourDifference(this.level.pixels, p, q);
  }

  private toKnown(x: number, y: number, move: Move): number {
    const d = at(this.level, x, y, move);
    if (d < 0 || !this.level.known[d]) return UNREAD;
    return colourDifference(this.level.pixels, d, y * this.level.width + x);
  }
}
