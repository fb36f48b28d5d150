import { LayoutEnergy, type Labelling, type Standing } from './expansion.ts';
import { BY_DETAIL, BY_GROUND, featuresOf, LANES, type Weighting } from './features.ts';
import { servedShare, type Field, type Move } from './field.ts';
import type { Level } from './levels.ts';
import { windowAlone } from './mirrored.ts';
import { LEAST_MOVE, type Proposed } from './common-moves.ts';
import { movesOfLevel, proposeMoves } from './offsets.ts';

/** Where every covered pixel of one level comes from. */
export interface Layout {
  /** what it was decided by */
  by: 'ground' | 'detail' | 'even';
  /** place in the list of levels, 0 = finest */
  level: number;
  /** place in `moves` of each pixel of the level's window, −1 where nothing is covered */
  labels: Int32Array;
  moves: Move[];
  /** energy in units of features, comparable among layouts of one kind */
  energy: number;
  /** the same layout's energy by detail alone, comparable among all layouts of a level */
  detail: number;
}

/** Most sweeps of expansion over all moves. */
const SWEEPS = 4;
/** How much more a layout by ground may cost in detail before regular structure is taken to be there. */
const REGULAR = 1.4;

/** A level as a field, with its mirrored copy where it has one. */
export function fieldOf(level: Level, weighting: Weighting): Field {
  const { width, height, cover, covered, known, allowed, beneath = 0 } = level;
  const pixels = new Int32Array(covered);
  const index = new Int32Array(width * height).fill(-1);
  for (let i = 0, n = 0; i < cover.length; i++) {
    if (!cover[i]) continue;
    index[i] = n;
    pixels[n++] = i;
  }
  const features = featuresOf(level, weighting);
  return { width, height: height - beneath, rows: height, features, known, allowed, pixels, index };
}

/** The finest level at which the cover is no more than `most` px across (square root of its area). */
export function levelWhereAcross(levels: readonly Level[], most: number): number {
  const at = levels.findIndex((l) => Math.sqrt(l.covered) <= most);
  return at < 0 ? levels.length - 1 : at;
}

interface Decided extends Labelling {
  moves: Move[];
  energies: LayoutEnergy;
  /** what came of beginning afresh, where it was not the cheaper one */
  afresh?: Labelling;
}

/** How many moves to the side are always proposed where donors are best taken from as high up as they are laid, about; and places that are asked. */
const SIDEWAYS = 50;
const ASKED = 40;

/** Moves that lead neither up nor down. */
function levelMoves(field: Field): Move[] {
  const { width } = field;
  const step = Math.max(2, Math.round(width / SIDEWAYS));
  const out: Move[] = [];
  for (let x = LEAST_MOVE; x < width; x += step) out.push({ x, y: 0 }, { x: -x, y: 0 });
  return out.concat(mirroredMoves(field, 2 * step)).filter((move) => servedShare(field, move, ASKED) > 0);
}

/** What lies before the cover's edge laid beyond it the other way round, about columns so many px from that edge at most. */
const ABOUT = 4;

/** Level moves into the mirrored copy, where there is one: about the cover's edge, and some more. */
function mirroredMoves({ width, height, rows, pixels }: Field, step: number): Move[] {
  if (rows === height) return [];
  const y = rows - height;
  let [first, last] = [width, 0];
  for (const p of pixels) {
    const x = p % width;
    first = Math.min(first, x);
    last = Math.max(last, x);
  }
  const edge = first > width - 1 - last ? first - 1 : last + 1;
  const out: Move[] = [];
  for (let k = -ABOUT; k <= ABOUT; k++) out.push({ x: width - 1 - 2 * edge + k, y });
  for (let x = 1 - width; x < width; x += step) out.push({ x, y });
  return out;
}

/** A field without its mirrored copy; the same memory. */
function fieldAlone(field: Field): Field {
  const end = field.width * field.height;
  const { features, known, allowed, height } = field;
  const part = (plane: Uint8Array) => plane.subarray(0, end);
  return {
    ...field,
    rows: height,
    features: features.subarray(0, LANES * end),
    known: part(known),
    allowed: part(allowed),
  };
}

/** Decides layouts of one cover, coarse to fine; nothing is worked out before it is asked for, or twice. */
export class Decider {
  private readonly detailField: Field;
  private readonly common = new Map<number, Proposed>();
  private layouts: Layout[] | null = null;

  /**
   * @param levels from the finest on; two coarser ones than `at` where there are
   * @param at level to decide at
   * @param quick follows what coarser levels decided, and begins afresh at the coarsest only
   * @param standing see {@link LayoutEnergy}
   */
  constructor(
    private readonly levels: readonly Level[],
    private readonly at: number,
    private readonly seed: number,
    readonly quick = false,
    readonly standing?: Standing,
  ) {
    this.detailField = fieldOf(levels[at], BY_DETAIL);
  }

  /** Share of patches around whose likes lie at one of a few moves. */
  get regular(): number {
    return this.proposed(this.at).regular;
  }

  /**
   * Layouts by ground and by detail, each begun afresh and from what the two coarser levels decided, the cheaper kept. The one to
   * be preferred comes first.
   */
  decide(): Layout[] {
    if (this.layouts) return this.layouts;
    const ground = this.minimise(BY_GROUND);
    const detail = this.minimise(BY_DETAIL);
    const first = this.layout('ground', ground);
    const others = [this.layout('detail', detail)];
    if (detail.afresh) others.push(this.layout('detail', { ...detail, ...detail.afresh }));
    others.sort((a, b) => a.detail - b.detail);
    const regular = first.detail > REGULAR * others[0].detail;
    return (this.layouts = regular ? [others[0], first, ...others.slice(1)] : [first, ...others]);
  }

  private proposed(l: number): Proposed {
    let common = this.common.get(l);
    if (!common) {
      const field = l === this.at ? this.detailField : fieldOf(this.levels[l], BY_DETAIL);
      this.common.set(l, (common = movesOfLevel(fieldAlone(field), windowAlone(this.levels[l]), this.seed)));
    }
    return common;
  }

  private minimise(weighting: Weighting): Decided {
    const { levels, at } = this;
    let above: Decided | undefined;
    for (let l = Math.min(levels.length - 1, at + 2); l >= at; l--) {
      const field = l === at && weighting === BY_DETAIL ? this.detailField : fieldOf(levels[l], weighting);
      above = decideLevel(field, this.movesAt(field, l), above, levels[l + 1], this);
    }
    return above!;
  }

  /** What is proposed at a level: what its pixels suggest, and level moves where those are wanted. */
  private movesAt(field: Field, l: number): Move[] {
    const moves = proposeMoves(field, this.proposed(l).moves);
    return this.standing ? [...moves, ...levelMoves(field)] : moves;
  }

  private layout(by: Layout['by'], decided: Decided): Layout {
    const detail = new LayoutEnergy(this.detailField, decided.moves).energyOf(decided.labels);
    return layoutOf(by, this.levels[this.at], this.at, decided, detail);
  }
}

function layoutOf(
  by: Layout['by'],
  level: Level,
  at: number,
  { labels, moves, energy }: Decided,
  detail: number,
): Layout {
  const out = new Int32Array(level.width * level.height).fill(-1);
  for (let i = 0, n = 0; i < out.length; i++) if (level.cover[i]) out[i] = labels[n++];
  return { by, level: at, labels: out, moves, energy, detail };
}

/** Decides one level afresh and, where a coarser one is decided, from there; the cheaper counts. */
function decideLevel(
  field: Field,
  proposed: readonly Move[],
  above: Decided | undefined,
  coarser: Level | undefined,
  { quick, standing }: { quick: boolean; standing?: Standing },
): Decided {
  const moves = proposed.slice();
  const start: number[] = [];
  if (above && coarser) {
    const byName = new Map(moves.map((m, n) => [`${m.x},${m.y}`, n]));
    const places = above.moves.map((m) => {
      const name = `${2 * m.x},${2 * m.y}`;
      const known = byName.get(name);
      if (known !== undefined) return known;
      byName.set(name, moves.length);
      return moves.push({ x: 2 * m.x, y: 2 * m.y }) - 1;
    });
    const indexAbove = above.energies.field.index;
    for (const p of field.pixels) {
      const x = p % field.width;
      const y = (p - x) / field.width;
      const n = indexAbove[(y >> 1) * coarser.width + (x >> 1)];
      start.push(n < 0 ? -1 : places[above.labels[n]]);
    }
  }
  const energies = new LayoutEnergy(field, moves, standing);
  const cheapest = energies.cheapest();
  const followed = Int16Array.from(start, (m, n) => (m >= 0 && energies.serves(m, n) ? m : cheapest[n]));
  if (quick) return { ...energies.minimise(start.length ? followed : cheapest, SWEEPS), moves, energies };
  const afresh = energies.minimise(cheapest, SWEEPS);
  let best = afresh;
  if (start.length) {
    const other = energies.minimise(followed, SWEEPS);
    if (other.energy < best.energy) best = other;
  }
  return { ...best, moves, energies, afresh: best === afresh ? undefined : afresh };
}
