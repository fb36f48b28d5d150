import type { Box } from '../../../raster/raster.ts';
import type { Move } from './field.ts';
import type { Level } from './levels.ts';
import { at, colourDifference, UNREAD, type Pieces } from './pieces.ts';
import { recut } from './recut.ts';

/** How far in px a piece is moved to meet its neighbours better. */
const NUDGE = 2;
/** Places along a piece's outline that are looked at to nudge it. */
const OUTLINE = 600;

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
  const { width } = box;
  const out = new Int32Array(labels.length).fill(-1);
  const found: Move[] = [];
  const stack = new Int32Array(labels.length);
  const steps = [1, -1, width, -width];
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
      for (let k = 0; k < 4; k++) {
        if (x === 0 && k === 1) continue;
        if (x + 1 === width && k === 0) continue;
        const j = i + steps[k];
        if (j < 0 || j >= labels.length || labels[j] !== label || out[j] >= 0) continue;
        out[j] = piece;
        stack[top++] = j;
      }
    }
  }
  return { box, labels: out, moves: found };
}

/**
 * Carries pieces to the level of twice the size, moves each to where it meets its neighbours best and cuts the seams anew.
 * @param keepsLevel a move that leads neither up nor down stays one
 */
export function carryUp(coarse: Pieces, level: Level, keepsLevel = false): Pieces {
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
  nudge(pieces, level, keepsLevel);
  recut(pieces, level);
  return pieces;
}

/** A pair across a piece's outline: a pixel outside it and the piece there, or −1 where the picture is known. */
interface Across {
  x: number;
  y: number;
  piece: number;
}

/** A move, and those beside it. @param level only those that lead as high */
function beside(from: Move, level: boolean): Move[] {
  const most = level ? 0 : NUDGE;
  const out = [from];
  for (let dy = -most; dy <= most; dy++)
    for (let dx = -NUDGE; dx <= NUDGE; dx++) if (dx || dy) out.push({ x: from.x + dx, y: from.y + dy });
  return out;
}

/** Moves each piece by up to {@link NUDGE} px, by how it goes on beyond its outline; large pieces first. */
function nudge(pieces: Pieces, level: Level, keepsLevel: boolean): void {
  const { box, labels, moves } = pieces;
  const outlines: Across[][] = moves.map(() => []);
  const sizes = new Int32Array(moves.length);
  const look = (piece: number, x: number, y: number, other: number) => {
    if (x < 0 || y < 0 || x >= level.width || y >= level.height) return;
    if (other >= 0 || level.known[y * level.width + x]) outlines[piece].push({ x, y, piece: other });
  };
  for (let y = 0, i = 0; y < box.height; y++) {
    for (let x = 0; x < box.width; x++, i++) {
      const piece = labels[i];
      if (piece < 0) continue;
      sizes[piece]++;
      const right = x + 1 < box.width ? labels[i + 1] : -1;
      const left = x > 0 ? labels[i - 1] : -1;
      const below = y + 1 < box.height ? labels[i + box.width] : -1;
      const above = y > 0 ? labels[i - box.width] : -1;
      if (right !== piece) look(piece, box.x + x + 1, box.y + y, right);
      if (left !== piece) look(piece, box.x + x - 1, box.y + y, left);
      if (below !== piece) look(piece, box.x + x, box.y + y + 1, below);
      if (above !== piece) look(piece, box.x + x, box.y + y - 1, above);
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
    // Where nothing tells, it stays where it is.
    const tried = beside(from, keepsLevel && (from.y === 0 || from.y === level.beneath)).map((move, n) => ({
      move,
      cost: cost(move) * (n ? 1 : 0.999),
    }));
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
