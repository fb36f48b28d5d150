import type { Box } from '../../../raster/raster.ts';
import { ABOVE, BELOW, LEFT, MaxFlow, RIGHT } from './max-flow.ts';
import type { Move } from './field.ts';
import type { Level } from './levels.ts';

/** A layout at one level, in the box of the cover: pieces laid by moves of their own. */
export interface Pieces {
  /** the cover's box in the window */
  box: Box;
  /** piece of each pixel of the box, −1 where nothing is covered */
  labels: Int32Array;
  moves: Move[];
}

/** How far in px a piece is moved to meet its neighbours better, and how far its seams. */
const NUDGE = 2;
const BAND = 2;
/** Places along a piece's outline that are looked at to nudge it. */
const OUTLINE = 600;
/** Colour difference that stands for a place that cannot be read. */
const UNREAD = 255;

function boxOfCover(level: Level): Box {
  const { width, height, cover } = level;
  let [x0, y0, x1, y1] = [width, height, -1, -1];
  for (let y = 0; y < height; y++) {
    const row = cover.subarray(y * width, (y + 1) * width);
    const first = row.indexOf(1);
    if (first < 0) continue;
    x0 = Math.min(x0, first);
    x1 = Math.max(x1, row.lastIndexOf(1));
    y0 = Math.min(y0, y);
    y1 = y;
  }
  return { x: x0, y: y0, width: x1 - x0 + 1, height: y1 - y0 + 1 };
}

/** A layout as pieces: each 4-connected part with one move is a piece of its own. */
export function piecesOf(level: Level, labels: Int32Array, moves: readonly Move[]): Pieces {
  const box = boxOfCover(level);
  const local = new Int32Array(box.width * box.height);
  for (let y = 0; y < box.height; y++) {
    const from = (box.y + y) * level.width + box.x;
    local.set(labels.subarray(from, from + box.width), y * box.width);
  }
  return split({ box, labels: local, moves: moves.slice() });
}

/** Gives every 4-connected part a piece of its own. */
function split({ box, labels, moves }: Pieces): Pieces {
  const { width, height } = box;
  const out = new Int32Array(labels.length).fill(-1);
  const found: Move[] = [];
  const stack = new Int32Array(labels.length);
  for (let start = 0; start < labels.length; start++) {
    if (labels[start] < 0 || out[start] >= 0) continue;
    const label = labels[start];
    const piece = found.push({ ...moves[label] }) - 1;
    let top = 0;
    stack[top++] = start;
    out[start] = piece;
    while (top) {
      const i = stack[--top];
      const x = i % width;
      const visit = (j: number) => {
        if (labels[j] !== label || out[j] >= 0) return;
        out[j] = piece;
        stack[top++] = j;
      };
      if (x > 0) visit(i - 1);
      if (x + 1 < width) visit(i + 1);
      if (i >= width) visit(i - width);
      if (i + width < width * height) visit(i + width);
    }
  }
  return { box, labels: out, moves: found };
}

/** Carries pieces to the level of twice the size, moves each to where it meets its neighbours best and cuts the seams anew. */
export function carryUp(coarse: Pieces, level: Level): Pieces {
  const box = boxOfCover(level);
  const labels = new Int32Array(box.width * box.height).fill(-1);
  for (let y = 0; y < box.height; y++) {
    const py = box.y + y;
    const from = ((py >> 1) - coarse.box.y) * coarse.box.width - coarse.box.x;
    for (let x = 0; x < box.width; x++) {
      const px = box.x + x;
      if (level.cover[py * level.width + px]) labels[y * box.width + x] = coarse.labels[from + (px >> 1)];
    }
  }
  const pieces = split({ box, labels, moves: coarse.moves.map((m) => ({ x: 2 * m.x, y: 2 * m.y })) });
  nudge(pieces, level);
  recut(pieces, level);
  return pieces;
}

/** Sum of absolute colour differences of two pixels of a level. */
function colourDifference(pixels: Uint8Array, a: number, b: number): number {
  const p = 4 * a;
  const q = 4 * b;
  return (
    Math.abs(pixels[p] - pixels[q]) + Math.abs(pixels[p + 1] - pixels[q + 1]) + Math.abs(pixels[p + 2] - pixels[q + 2])
  );
}

/** A place of the window moved, or −1 outside. */
function at(level: Level, x: number, y: number, move: Move): number {
  const u = x + move.x;
  const v = y + move.y;
  return u >= 0 && v >= 0 && u < level.width && v < level.height ? v * level.width + u : -1;
}

const STEPS: ReadonlyArray<readonly [number, number]> = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
];

/** A pair across a piece's outline: a pixel outside it and the piece there, or −1 where the picture is known. */
interface Across {
  x: number;
  y: number;
  piece: number;
}

/** Moves each piece by up to {@link NUDGE} px, by how it goes on beyond its outline; large pieces first. */
function nudge(pieces: Pieces, level: Level): void {
  const { box, labels, moves } = pieces;
  const outlines: Across[][] = moves.map(() => []);
  const sizes = new Int32Array(moves.length);
  for (let y = 0, i = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++, i++) {
      const piece = labels[i];
      if (piece < 0) continue;
      sizes[piece]++;
      for (const [dx, dy] of STEPS) {
        const [u, v] = [x + dx, y + dy];
        const inside = u >= 0 && v >= 0 && u < box.width && v < box.height;
        const other = inside ? labels[v * box.width + u] : -1;
        if (other === piece) continue;
        const [wx, wy] = [box.x + u, box.y + v];
        if (wx < 0 || wy < 0 || wx >= level.width || wy >= level.height) continue;
        if (other < 0 && !level.known[wy * level.width + wx]) continue;
        outlines[piece].push({ x: wx, y: wy, piece: other });
      }
    }
  }
  const { starts, pixels } = byPiece(pieces);
  const order = moves.map((_, n) => n).sort((a, b) => sizes[b] - sizes[a]);
  for (const piece of order) {
    const step = Math.max(1, Math.floor(outlines[piece].length / OUTLINE));
    const outline = outlines[piece].filter((_, n) => n % step === 0);
    if (!outline.length) continue;
    const from = moves[piece];
    const cost = (move: Move) => {
      let sum = 0;
      for (const { x, y, piece: other } of outline) {
        const there = other < 0 ? y * level.width + x : at(level, x, y, moves[other]);
        const own = at(level, x, y, move);
        if (there < 0 || own < 0 || !level.known[own] || !level.known[there]) sum += UNREAD;
        else sum += colourDifference(level.pixels, own, there);
      }
      return sum;
    };
    const tried: Array<{ move: Move; cost: number }> = [];
    for (let dy = -NUDGE; dy <= NUDGE; dy++)
      for (let dx = -NUDGE; dx <= NUDGE; dx++) {
        const move = { x: from.x + dx, y: from.y + dy };
        // Where nothing tells, it stays where it is.
        tried.push({ move, cost: cost(move) * (dx || dy ? 1 : 0.999) });
      }
    tried.sort((a, b) => a.cost - b.cost);
    const fits = tried.find(({ move }) =>
      serves(pieces, pixels.subarray(starts[piece], starts[piece + 1]), level, move),
    );
    if (fits) moves[piece] = fits.move;
  }
}

/** The pixels of each piece, one piece after another. */
function byPiece({ labels, moves }: Pieces): { starts: Int32Array; pixels: Int32Array } {
  const starts = new Int32Array(moves.length + 1);
  for (const l of labels) if (l >= 0) starts[l + 1]++;
  for (let p = 0; p < moves.length; p++) starts[p + 1] += starts[p];
  const next = starts.slice();
  const pixels = new Int32Array(starts[moves.length]);
  for (let i = 0; i < labels.length; i++) if (labels[i] >= 0) pixels[next[labels[i]]++] = i;
  return { starts, pixels };
}

/** Whether a move finds a donor for every one of the pixels. */
function serves({ box }: Pieces, pixels: Int32Array, level: Level, move: Move): boolean {
  for (const i of pixels) {
    const x = i % box.width;
    const d = at(level, box.x + x, box.y + (i - x) / box.width, move);
    if (d < 0 || !level.allowed[d]) return false;
  }
  return true;
}

/** Cuts every seam anew within {@link BAND} px of where it is, pair of pieces by pair. */
function recut(pieces: Pieces, level: Level): void {
  const { box, labels } = pieces;
  const { width, height } = box;
  // Pixels near a seam, by the pair of pieces that meet there.
  const seams = new Map<number, number[]>();
  const many = pieces.moves.length;
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (labels[i] < 0) continue;
      for (const j of [x + 1 < width ? i + 1 : -1, y + 1 < height ? i + width : -1]) {
        if (j < 0 || labels[j] < 0 || labels[j] === labels[i]) continue;
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

const FIXED = 1 << 22;
