import { Kernels } from '../../../kernels/memory.ts';
import type { Pieces } from './pieces.ts';
import type { Level } from './levels.ts';
import { toneAt, type Tone } from './tone.ts';

/** How far in px from a seam or the rim pieces are joined. */
const BAND = 5;
const SWEEPS = 24;
/** Step at a place that counts as a border rather than as chance, as a multiple of what tone allows. */
const CHANCE = 2;

/** Corrections of the pixels near seams, on top of none: three values each, by place in the cover's box. */
export interface Joined {
  /** node of each pixel of the box, −1 where the correction of tone stands as it is */
  node: Int32Array;
  /** four floats a node */
  add: Float32Array;
}

/**
 * Joins pieces at their seams and at the rim so that no step is left there: the gradients of both sides are kept, across the seam
 * their mean. Farther off the correction of tone stands, so that a few sweeps are enough.
 *
 * @param most step in tone that still counts as a difference to be evened
 * Source: Pérez, Gangnet & Blake, "Poisson Image Editing", 2003.
 */
export function joinSeams({ box, labels, moves }: Pieces, level: Level, tone: Tone, most: number): Joined {
  const { width, height } = box;
  const near = new Uint8Array(labels.length);
  // Distance to a seam or the rim, by two passes of city blocks.
  const far = BAND + 1;
  const reach = new Uint8Array(labels.length).fill(far);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (labels[i] < 0) continue;
      const seam =
        (x + 1 < width && labels[i + 1] !== labels[i]) ||
        (x > 0 && labels[i - 1] !== labels[i]) ||
        (y + 1 < height && labels[i + width] !== labels[i]) ||
        (y > 0 && labels[i - width] !== labels[i]) ||
        x === 0 ||
        y === 0 ||
        x + 1 === width ||
        y + 1 === height;
      if (seam) reach[i] = 0;
      if (x > 0) reach[i] = Math.min(reach[i], reach[i - 1] + 1);
      if (y > 0) reach[i] = Math.min(reach[i], reach[i - width] + 1);
    }
  }
  const node = new Int32Array(labels.length).fill(-1);
  let count = 0;
  for (let i = labels.length - 1; i >= 0; i--) {
    if (labels[i] < 0) continue;
    const x = i % width;
    if (x + 1 < width) reach[i] = Math.min(reach[i], reach[i + 1] + 1);
    if (i + width < labels.length) reach[i] = Math.min(reach[i], reach[i + width] + 1);
    if (reach[i] < far) near[i] = 1;
  }
  for (let i = 0; i < labels.length; i++) if (near[i]) node[i] = count++;

  const kernels = new Kernels();
  const reserve = (floats: number) => kernels.reserve(4 * floats);
  const [valueAt, linksAt, weightsAt, stepsAt, heldAt, pullsAt] = [4, 4, 2, 8, 1, 4].map((k) => reserve(k * count));
  const value = kernels.f32(valueAt, 4 * count);
  const links = kernels.i32(linksAt, 4 * count).fill(-1);
  const weights = kernels.f32(weightsAt, 2 * count).fill(0);
  const steps = kernels.f32(stepsAt, 8 * count).fill(0);
  const held = kernels.f32(heldAt, count).fill(1e-4);
  const pulls = kernels.f32(pullsAt, 4 * count).fill(0);
  const add = new Float32Array(3);
  const fixed = new Float32Array(3);
  const { pixels, known } = level;
  const at = (x: number, y: number) =>
    x >= 0 && y >= 0 && x < level.width && y < level.height ? y * level.width + x : -1;
  const step = new Float64Array(3);
  /** Adds what place `b` has more than place `a`; whether both can be read. */
  const more = (a: number, b: number) => {
    if (a < 0 || b < 0 || !known[a] || !known[b]) return false;
    for (let c = 0; c < 3; c++) step[c] += pixels[4 * b + c] - pixels[4 * a + c];
    return true;
  };
  /** By what the corrections of tone of both sides leave of the step. */
  const weightOf = (n: number, m: number) => {
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += (step[c] - before[4 * n + c] + (m < 0 ? 0 : before[4 * m + c])) ** 2;
    const size = Math.sqrt(sum) / (CHANCE * most);
    return 1 / (1 + size ** 4);
  };
  for (let i = 0; i < labels.length; i++) {
    const n = node[i];
    if (n < 0) continue;
    const x = i % width;
    toneAt(tone, labels[i], box.x + x, box.y + (i - x) / width, add);
    for (let c = 0; c < 3; c++) value[4 * n + c] = add[c];
    value[4 * n + 3] = 0;
  }
  const before = value.slice();
  for (let i = 0; i < labels.length; i++) {
    const n = node[i];
    if (n < 0) continue;
    const x = i % width;
    const y = (i - x) / width;
    const [px, py] = [box.x + x, box.y + y];
    const own = moves[labels[i]];
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = [k === 0 ? 1 : k === 1 ? -1 : 0, k === 2 ? 1 : k === 3 ? -1 : 0];
      const [u, v] = [x + dx, y + dy];
      const j = u >= 0 && v >= 0 && u < width && v < height ? v * width + u : -1;
      const m = j >= 0 ? node[j] : -1;
      if (m >= 0) {
        links[4 * n + k] = m;
        if (k & 1) continue;
        const link = 2 * n + (k >> 1);
        if (labels[j] === labels[i]) {
          weights[link] = 1;
          continue;
        }
        const other = moves[labels[j]];
        step.fill(0);
        let read = more(at(px + own.x, py + own.y), at(px + other.x, py + other.y)) ? 1 : 0;
        read += more(at(px + dx + own.x, py + dy + own.y), at(px + dx + other.x, py + dy + other.y)) ? 1 : 0;
        if (!read) continue;
        for (let c = 0; c < 3; c++) step[c] /= read;
        weights[link] = weightOf(n, m);
        for (let c = 0; c < 3; c++) steps[4 * link + c] = step[c];
        continue;
      }
      if (j >= 0 && labels[j] >= 0) {
        // Farther inside the same piece: the correction of tone stands.
        toneAt(tone, labels[j], px + dx, py + dy, fixed);
        held[n] += 1;
        for (let c = 0; c < 3; c++) pulls[4 * n + c] += fixed[c];
        continue;
      }
      const q = at(px + dx, py + dy);
      if (q < 0 || !known[q]) continue;
      step.fill(0);
      if (!more(at(px + dx + own.x, py + dy + own.y), q)) continue;
      const w = weightOf(n, -1);
      held[n] += w;
      for (let c = 0; c < 3; c++) pulls[4 * n + c] += w * step[c];
    }
  }
  kernels.run.toneSweeps(valueAt, linksAt, weightsAt, stepsAt, heldAt, pullsAt, count, SWEEPS, 1.5);
  return { node, add: kernels.f32(valueAt, 4 * count).slice() };
}
