import { LANES } from './features.ts';
import { UNKNOWN_COST, type Field, type Move } from './field.ts';
import { Kernels } from '../../../kernels/memory.ts';
import { ABOVE, BELOW, LEFT, RIGHT } from '../../../kernels/max-flow.ts';

/** Costs are counted in this many parts of a unit, since flows are whole numbers. */
const PARTS = 8;
/** What must never be chosen. */
const NEVER = 1 << 24;

/** What stands on the ground and goes on beside itself: a side that is added to a picture, or that of a drawn edge. */
export type Standing = 'picture' | 'edge';

/** What it costs each pixel there, in units of features, to be moved up or down by the cover's size. */
const UPRIGHT = 4;
/**
 * Where a whole side is added, a step is long and stands upright, at the picture's edge as among pieces: it counts so many times.
 * `evened`: what of it, in units of features, is evened out as tone afterwards and weighs no more than anywhere. Both from looking at
 * added sides of photographs.
 */
const STEP = { times: 5, evened: 27 };
/** About how often a pixel counts beyond the edge how it continues the picture: twice itself, once those close by. */
const SEEN_BEYOND = 3;

/**
 * What it costs a pixel to be laid mirrored, in units of features: what it does anyway, the squared change of features across it for
 * which it costs 1 more, and at most; within so many px of where it is from only a part of that.
 */
const MIRRORED = { least: 0.3, change: 8, most: 300, near: 4 };

/** Which move each covered pixel of a field takes, and what that costs. */
export interface Labelling {
  labels: Int16Array;
  energy: number;
}

/**
 * The energy of laying moves into the cover of a field: a seam between two pixels costs what the two moves would put differently
 * at both of them; at the border a move costs by how it continues the known pixels.
 *
 * Source: shift-map energy after Pritch, Kav-Venaki & Peleg, "Shift-Map Image Editing", ICCV 2009, and He & Sun 2012; border
 * context from own measurement.
 */
export class LayoutEnergy {
  readonly count: number;
  private readonly kernels = new Kernels();
  private readonly labelsAt: number;
  private readonly costsAt: number;

  /** @param standing what lies level is preferred */
  constructor(
    readonly field: Field,
    readonly moves: readonly Move[],
    standing?: Standing,
  ) {
    const { pixels, index, width, height } = field;
    const { kernels } = this;
    this.count = pixels.length;
    const neighbours = new Int32Array(4 * this.count).fill(-1);
    pixels.forEach((p, n) => {
      const x = p % width;
      if (x + 1 < width) neighbours[4 * n + RIGHT] = index[p + 1];
      if (x > 0) neighbours[4 * n + LEFT] = index[p - 1];
      if (p + width < width * height) neighbours[4 * n + BELOW] = index[p + width];
      if (p >= width) neighbours[4 * n + ABOVE] = index[p - width];
    });
    const features = kernels.put(field.features);
    const known = kernels.put(field.known);
    const allowed = kernels.put(field.allowed);
    const pixelsAt = kernels.put(pixels);
    const neighboursAt = kernels.put(neighbours);
    const movesAt = kernels.put(Int32Array.from(moves.flatMap((m) => [m.x, m.y])));
    const places = kernels.reserve(4 * moves.length * this.count);
    this.costsAt = kernels.reserve(4 * moves.length * this.count);
    this.labelsAt = kernels.reserve(4 * this.count);
    const changes = kernels.reserve(4 * this.count);
    const graph = kernels.reserve(kernels.run.flowBytes(this.count));
    const { run } = kernels;
    run.fieldOpen(features, known, allowed, width, height, field.rows, UNKNOWN_COST);
    run.moveCosts(pixelsAt, neighboursAt, this.count, movesAt, moves.length, places, this.costsAt, PARTS, NEVER);
    if (standing) this.preferLevel(standing);
    run.flowOpen(graph, this.count);
    const more = standing === 'picture' ? STEP.times - 1 : 0;
    run.layoutOpen(places, this.costsAt, neighboursAt, this.labelsAt, changes, this.count, STEP.evened, more);
  }

  /** Moves that lead neither up nor down are preferred, and beside a picture those that continue it all the more. */
  private preferLevel(standing: Standing): void {
    const { costs, count, moves } = this;
    const { height, rows } = this.field;
    const size = Math.sqrt(count);
    moves.forEach(({ x, y }, m) => {
      const beneath = rows - height;
      const mirrored = Math.abs(y - beneath) < Math.abs(y);
      const more = Math.round((PARTS * UPRIGHT * Math.abs(mirrored ? y - beneath : y)) / size);
      for (let n = m * count, k = 0; k < count; n++, k++) {
        if (costs[n] >= NEVER) continue;
        const seen = mirrored ? more + Math.round(PARTS * this.seenMirrored(k, x, y)) : more;
        const over = standing === 'picture' ? Math.max(0, costs[n] - PARTS * SEEN_BEYOND * STEP.evened) : 0;
        costs[n] = Math.min(NEVER - 1, costs[n] + (STEP.times - 1) * over + seen);
      }
    });
  }

  /** How much it is seen that a covered pixel shows what is found mirrored elsewhere: what runs level looks the same, what leans or stands does not. */
  private seenMirrored(n: number, x: number, y: number): number {
    const { pixels, width, features } = this.field;
    const p = pixels[n];
    const far = Math.abs(2 * (p % width) + x - width + 1) / 2;
    const d = p + y * width + x;
    const [a, b] = [Math.max(0, d - 1) * LANES, Math.min(features.length / LANES - 1, d + 1) * LANES];
    let change = 0;
    for (let l = 0; l < LANES; l++) change += (features[a + l] - features[b + l]) ** 2;
    return Math.min(1, far / MIRRORED.near) * (MIRRORED.least + Math.min(MIRRORED.most, change / MIRRORED.change));
  }

  /** What each move costs at each pixel: move × pixels + pixel. */
  private get costs(): Int32Array {
    return this.kernels.i32(this.costsAt, this.moves.length * this.count);
  }

  /** Whether a move may be taken at a covered pixel. */
  serves(move: number, pixel: number): boolean {
    return this.costs[move * this.count + pixel] < NEVER;
  }

  /** Energy of a labelling, in units of the features. */
  energyOf(labels: Int16Array): number {
    this.kernels.i32(this.labelsAt, this.count).set(labels);
    return this.kernels.run.layoutEnergy() / PARTS;
  }

  /** The cheapest move at each pixel by itself that it can take. */
  cheapest(): Int16Array {
    const { costs, count } = this;
    const labels = new Int16Array(count);
    const totals = this.moves.map((_, m) => {
      let sum = 0;
      for (let n = m * count; n < (m + 1) * count; n++) sum += Math.min(costs[n], 4000);
      return sum;
    });
    const order = totals.map((_, m) => m).sort((a, b) => totals[a] - totals[b]);
    for (let n = 0; n < count; n++) labels[n] = order.find((m) => costs[m * count + n] < NEVER) ?? order[0];
    return labels;
  }

  /**
   * Improves a labelling by expansion moves: one sweep over all moves, then sweeps over those that are in use, until nothing
   * changes any more or `sweeps` are done.
   * Source: Boykov, Veksler & Zabih, "Fast Approximate Energy Minimization via Graph Cuts", IEEE PAMI 23, 2001.
   */
  minimise(start: Int16Array, sweeps: number): Labelling {
    const { run } = this.kernels;
    const labels = this.kernels.i32(this.labelsAt, this.count);
    labels.set(start);
    const last = new Int32Array(this.moves.length).fill(-1);
    let changes = 0;
    for (let sweep = 0; sweep < sweeps; sweep++) {
      const before = changes;
      const used = new Set(labels);
      for (let m = 0; m < this.moves.length; m++) {
        // Nothing has changed since this one was tried.
        if (last[m] === changes || (sweep > 0 && !used.has(m))) continue;
        if (run.expand(m)) changes++;
        last[m] = changes;
      }
      if (changes === before) break;
    }
    return { labels: Int16Array.from(labels), energy: run.layoutEnergy() / PARTS };
  }
}
