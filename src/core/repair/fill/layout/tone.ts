import type { Level } from './levels.ts';
import { relax } from './relax.ts';
import { softened, type Softness } from './soften.ts';
import type { Surface } from './surface.ts';
import type { Pieces } from './pieces.ts';

/** A step in tone at which a seam counts as a border of grounds rather than as a difference to be evened, 8-bit scale. */
export const BORDER_STEP = 24;
/** The same where all is known to be of one ground. */
export const WITHIN_STEP = 90;
/** Reach in px of the means that tone is taken from. */
const REACH = 3;
/** The same at the rim of a side that was added, where all that is known lies on one side and tone may rise towards it. */
const SIDE_REACH = 1;
/** What holds a correction to nothing where nothing else tells. */
const HOLD = 0.0005;

/** Corrections of tone of the covered pixels of one level, and by which piece each was found. */
export interface Tone {
  /** finer levels this one stands for: pixels of level 0 to one of this, as a power of two */
  level: number;
  box: Pieces['box'];
  labels: Int32Array;
  /** three values a pixel of the box, 8-bit scale */
  add: Float32Array;
}

/** Mean over a small square of what one place has more than another, where both are known; null where neither is. */
function meanStep(
  level: Level,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  out: Float64Array,
  reach = REACH,
): boolean {
  const { width, height, pixels, known } = level;
  let n = 0;
  let [r, g, b] = [0, 0, 0];
  for (let dy = -reach; dy <= reach; dy++) {
    const [ya, yb] = [ay + dy, by + dy];
    if (ya < 0 || yb < 0 || ya >= height || yb >= height) continue;
    for (let dx = -reach; dx <= reach; dx++) {
      const [xa, xb] = [ax + dx, bx + dx];
      if (xa < 0 || xb < 0 || xa >= width || xb >= width) continue;
      const i = ya * width + xa;
      const j = yb * width + xb;
      if (!known[i] || !known[j]) continue;
      r += pixels[4 * i] - pixels[4 * j];
      g += pixels[4 * i + 1] - pixels[4 * j + 1];
      b += pixels[4 * i + 2] - pixels[4 * j + 2];
      n++;
    }
  }
  if (!n) return false;
  out[0] = r / n;
  out[1] = g / n;
  out[2] = b / n;
  return true;
}

/** How far a step is a mere difference of tone: 1, or a border of grounds: 0. */
function evened(step: Float64Array, most: number): number {
  const size = Math.sqrt(step[0] * step[0] + step[1] * step[1] + step[2] * step[2]) / most;
  return 1 / (1 + size ** 4);
}

/** Pieces of level 0 as they are at a coarser one; moves rounded to its px. */
function piecesAt(fine: Pieces, level: Level, shift: number): Pieces {
  const x = fine.box.x >> shift;
  const y = fine.box.y >> shift;
  const box = {
    x,
    y,
    width: ((fine.box.x + fine.box.width - 1) >> shift) - x + 1,
    height: ((fine.box.y + fine.box.height - 1) >> shift) - y + 1,
  };
  const labels = new Int32Array(box.width * box.height).fill(-1);
  const size = 1 << shift;
  const middle = size >> 1;
  for (let v = 0, o = 0; v < box.height; v++) {
    for (let u = 0; u < box.width; u++, o++) {
      if (!level.cover[(box.y + v) * level.width + box.x + u]) continue;
      // What stands in the middle, or else any covered pixel of those it stands for.
      const look = (dx: number, dy: number) => {
        const fx = ((box.x + u) << shift) + dx - fine.box.x;
        const fy = ((box.y + v) << shift) + dy - fine.box.y;
        return fx >= 0 && fy >= 0 && fx < fine.box.width && fy < fine.box.height
          ? fine.labels[fy * fine.box.width + fx]
          : -1;
      };
      let label = look(middle, middle);
      for (let k = 0; label < 0 && k < size * size; k++) label = look(k % size, Math.floor(k / size));
      labels[o] = label;
    }
  }
  const share = 1 / size;
  return { box, labels, moves: fine.moves.map((m) => ({ x: Math.round(m.x * share), y: Math.round(m.y * share) })) };
}

/**
 * Corrections of tone by which pieces meet each other and the known pixels around: a membrane whose steps at seams are what the
 * pieces differ by there. A large step is a border of two grounds and is left; inside a piece nothing crosses a strong edge.
 *
 * @param fine pieces of level 0
 * @param level the level to solve at
 * @param shift its place in the list of levels
 * @param most step in tone that still counts as a difference to be evened
 * @param surface how the tone of the ground falls off over the window: a piece takes on that of its new place
 * @param soft how wide edges are at a place of the level
 * @param aside it is a side that was added to a picture
 * Source: Pérez, Gangnet & Blake, "Poisson Image Editing", 2003, with weights as in robust estimation; own measurement.
 */
export function toneOf(
  fine: Pieces,
  level: Level,
  shift: number,
  most: number,
  surface?: Surface | null,
  soft?: Softness,
  aside = false,
): Tone {
  const rim = aside ? SIDE_REACH : REACH;
  const pieces = piecesAt(fine, level, shift);
  const { box, labels, moves } = pieces;
  const { width, height } = box;
  const count = labels.reduce((n, l) => n + (l >= 0 ? 1 : 0), 0);
  const pixels = new Int32Array(count);
  const node = new Int32Array(labels.length).fill(-1);
  for (let i = 0, n = 0; i < labels.length; i++) {
    if (labels[i] < 0) continue;
    node[i] = n;
    pixels[n++] = i;
  }
  /** weight of the links to the right and downwards, and what the right or lower one has less */
  const weights = new Float32Array(2 * count);
  const steps = new Float32Array(8 * count);
  const held = new Float32Array(count).fill(HOLD);
  const pulls = new Float32Array(4 * count);
  const step = new Float64Array(3);
  const donor = (i: number) => {
    const m = moves[labels[i]];
    return [box.x + (i % width) + m.x, box.y + Math.floor(i / width) + m.y] as const;
  };
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const x = i % width;
    const y = (i - x) / width;
    for (let k = 0; k < 2; k++) {
      const j = k === 0 ? (x + 1 < width ? i + 1 : -1) : y + 1 < height ? i + width : -1;
      if (j < 0 || node[j] < 0) continue;
      if (labels[i] === labels[j]) {
        weights[2 * n + k] = inner(level, ...donor(i), k, most);
        if (surface) {
          const m = moves[labels[i]];
          const [px, py] = [box.x + x, box.y + y];
          const [qx, qy] = k === 0 ? [px + 1, py] : [px, py + 1];
          for (let c = 0; c < 3; c++)
            steps[8 * n + 4 * k + c] =
              surface.rise(c, px, py) -
              surface.rise(c, px + m.x, py + m.y) -
              surface.rise(c, qx, qy) +
              surface.rise(c, qx + m.x, qy + m.y);
        }
        continue;
      }
      // Both pieces are compared at both pixels of the seam.
      const [mx, my] = [moves[labels[i]], moves[labels[j]]];
      const [px, py] = [box.x + x, box.y + y];
      if (!meanStep(level, px + my.x, py + my.y, px + mx.x, py + mx.y, step)) continue;
      weights[2 * n + k] = evened(step, most);
      for (let c = 0; c < 3; c++) steps[8 * n + 4 * k + c] = step[c];
    }
    for (const [dx, dy] of [
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ]) {
      const [u, v] = [x + dx, y + dy];
      if (u >= 0 && v >= 0 && u < width && v < height && node[v * width + u] >= 0) continue;
      const [qx, qy] = [box.x + u, box.y + v];
      if (qx < 0 || qy < 0 || qx >= level.width || qy >= level.height || !level.known[qy * level.width + qx]) continue;
      const m = moves[labels[i]];
      if (!meanStep(level, qx, qy, qx + m.x, qy + m.y, step, rim)) continue;
      const w = evened(step, most);
      held[n] += w;
      for (let c = 0; c < 3; c++) pulls[4 * n + c] += w * step[c];
    }
  }
  const nodes = { pixels, node, width };
  const solved = relax(nodes, { weights, steps, held, pulls });
  if (soft) softened(pieces, level, nodes, soft, solved);
  const add = new Float32Array(3 * labels.length);
  for (let n = 0; n < count; n++) for (let c = 0; c < 3; c++) add[3 * pixels[n] + c] = solved[4 * n + c];
  return { level: shift, box, labels, add };
}

/** Weight of a link inside a piece: little where the donor has a strong edge. */
function inner(level: Level, x: number, y: number, k: number, most: number): number {
  const [u, v] = [x + (k === 0 ? 1 : 0), y + (k === 1 ? 1 : 0)];
  if (x < 0 || y < 0 || u >= level.width || v >= level.height) return 1;
  const a = 4 * (y * level.width + x);
  const b = 4 * (v * level.width + u);
  let sum = 0;
  for (let c = 0; c < 3; c++) sum += (level.pixels[a + c] - level.pixels[b + c]) ** 2;
  return 1 / (1 + (Math.sqrt(sum) / most) ** 4);
}

/** The correction at a pixel of level 0 of a piece, from the corrections of that piece around it. */
export function toneAt(tone: Tone, piece: number, x: number, y: number, out: Float32Array): void {
  const size = 1 << tone.level;
  const u = (x + 0.5) / size - 0.5 - tone.box.x;
  const v = (y + 0.5) / size - 0.5 - tone.box.y;
  const x0 = Math.floor(u);
  const y0 = Math.floor(v);
  const fx = u - x0;
  const fy = v - y0;
  let total = 0;
  let [r, g, b] = [0, 0, 0];
  for (let k = 0; k < 4; k++) {
    const px = x0 + (k & 1);
    const py = y0 + (k >> 1);
    if (px < 0 || py < 0 || px >= tone.box.width || py >= tone.box.height) continue;
    const i = py * tone.box.width + px;
    if (tone.labels[i] !== piece) continue;
    const w = (k & 1 ? fx : 1 - fx) * (k >> 1 ? fy : 1 - fy) + 1e-4;
    total += w;
    r += w * tone.add[3 * i];
    g += w * tone.add[3 * i + 1];
    b += w * tone.add[3 * i + 2];
  }
  out[0] = total ? r / total : 0;
  out[1] = total ? g / total : 0;
  out[2] = total ? b / total : 0;
}
