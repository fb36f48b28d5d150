import { signedDistance } from '../grounds/border.ts';
import { agreement, lookAround, masksOf, type Division, type GroundMasks } from '../grounds/division.ts';
import { draggedGround, sidesOf, type Guides } from '../grounds/guides.ts';
import { findPlane, REGULAR, type Plane, type Seen } from '../grounds/plane.ts';
import { carryOut, fillGround, weave, type Carried } from './carry-out.ts';
import { Decider, type Layout } from './decide.ts';
import { frontOf } from './front.ts';
import { coveredIn, finestLevel, type Level } from './levels.ts';
import { mirrored, shownAt, windowAlone } from './mirrored.ts';
import { resolutionsOf, type Prepared, type Resolutions } from './prepare.ts';
import { BORDER_STEP, WITHIN_STEP } from './tone.ts';

/** Below so many covered px a ground's part is too small to be laid out by itself. */
const LEAST_PART = 12;

/**
 * Ways of laying a cover out. `divided`: the grounds around are told apart, their borders run on inside, each is filled from its
 * own kind. `ground`: large pieces, seams where tone on the large agrees. `detail`: large pieces, seams where lines and courses
 * meet. `woven`: one ground, put together from many small places. `guided`: as somebody drew its edges.
 */
export type LayoutKind = 'guided' | 'divided' | 'ground' | 'detail' | 'woven';

/** Courses of borders that are trusted: strays from them, as a share of the cover's size and in px, and how they bend. */
const SMOOTH = { share: 0.0028, px: 1.2, bend: 1 };
/** Covers below so many px across show no structure that would repeat in them. */
const SMALL = 44;
/** Spread of tone around a cover up to which all counts as one ground. */
const EVEN = 20;
/** Share of patches with their likes at one of a few moves from which on structure is taken to be regular. */
const REPEATED = 0.2;

/** Seed of what is decided, the same for all tries of a cover, so that they differ by what they are and not by chance. */
const DECIDING = 1;

/** One way of laying a cover out, ready to be carried out. */
export interface Plan {
  kind: LayoutKind;
  /** how many grounds are told apart */
  grounds: number;
  /** @param seed of what is drawn by chance, when a ground is woven */
  carry(seed: number): Part[] | null;
}

/** What one ground, or the whole, lays into the cover. */
export interface Part {
  carried: Carried;
  /** the plane in which the pieces lie, where it is not seen from the front */
  plane?: Plane;
  /** rows to the window's mirrored copy, where pieces may be taken from it */
  beneath?: number;
  /** how much of it counts at a place of the window; null: all */
  share: ((x: number, y: number) => number) | null;
}

/**
 * The ways of laying a cover out, the one to be preferred first: as the grounds lie where their borders can be followed; as the
 * pieces around suggest where several grounds or regular structure are there; woven where all is of one ground.
 */
export function plansOf(prepared: Prepared): Array<() => Plan> {
  const { edges, grounds } = prepared.guides ?? { edges: [], grounds: [] };
  const own = ownPlans(prepared);
  const guided = edges.length ? [guidedBy(edges, prepared, fillLevel), guidedBy(edges, prepared, weave), own[0]] : own;
  if (!grounds.length) return guided;
  // What is dragged lies on top of whatever layout.
  return guided.map((plan) => (): Plan => {
    const { carry, ...rest } = plan();
    return { ...rest, carry: (seed) => carry(seed)?.concat(carryDragged(grounds, prepared, seed)) ?? null };
  });
}

/** A side of a drawn edge: what stands on the ground goes on beside itself. Not where regular structure runs away from the eye. */
const fillLevel = (own: Resolutions, seed: number) => fillGround(own, seed, 'edge');

/** Drawn edges run on; each of their sides is filled by itself. */
const guidedBy =
  (edges: Guides['edges'], { levels }: Prepared, fill: (own: Resolutions, seed: number) => Carried) =>
  (): Plan => ({
    kind: 'guided',
    grounds: edges.length + 1,
    carry: (seed) => {
      const parts: Part[] = [];
      for (const { masks, share } of sidesOf(edges, levels[0])) {
        const carried = carryPart(masks, levels[0], fill, seed);
        if (carried) parts.push({ carried, share: parts.length ? share : null });
      }
      return parts.length ? parts : null;
    },
  });

/** Grounds that are dragged over their borders. */
const carryDragged = (grounds: Guides['grounds'], { levels, at }: Prepared, seed: number): Part[] =>
  grounds.flatMap((ground) => {
    const part = draggedGround(ground, levels, at);
    const carried = part && carryPart(part.masks, levels[0], fillGround, seed);
    return carried ? [{ carried, share: (x: number, y: number) => part.share(x, y) }] : [];
  });

/** A part of a window from its own places; null where it is next to nothing or nothing may be taken. */
function carryPart(
  masks: GroundMasks,
  level: Level,
  fill: (own: Resolutions, seed: number) => Carried,
  seed: number,
): Carried | null {
  const covered = coveredIn(masks.cover);
  if (covered < LEAST_PART) return null;
  const own = resolutionsOf({ ...level, ...masks, covered });
  return own.levels[own.at].allowed.indexOf(1) < 0 ? null : fill(own, seed);
}

/** The ways that follow from what is around. */
function ownPlans(prepared: Prepared): Array<() => Plan> {
  const { levels, at } = prepared;
  const size = Math.sqrt(levels[0].covered);
  const { arcs, spread, division } = lookAround(levels, at, size);
  const small = size < SMALL;
  const seen: Seen = !small && !division ? findPlane(levels) : { regularity: 0, plane: null };
  const front = seen.plane && seenFromFront(prepared, seen.plane);
  // Beside a picture things go on the other way round, too.
  const laidOn = front ?? (prepared.level ? resolutionsOf(mirrored(levels[0]), true) : prepared);
  const decider = new Decider(
    laidOn.levels,
    laidOn.at,
    DECIDING,
    prepared.quick,
    prepared.level ? 'picture' : undefined,
  );
  const step = arcs >= 2 ? BORDER_STEP : WITHIN_STEP;
  const grounds = Math.max(1, division?.means.length ?? arcs);
  const laid = (n: number) => (): Plan => {
    const layouts = decider.decide();
    const layout = layouts[Math.min(n, layouts.length - 1)];
    const kind = layout.by === 'ground' ? 'ground' : 'detail';
    return {
      kind,
      grounds,
      carry: () => [
        {
          carried: carryOut(laidOn, layout, step),
          share: null,
          plane: (front && seen.plane) ?? undefined,
          beneath: laidOn.levels[0].beneath,
        },
      ],
    };
  };
  const woven = (): Plan => ({
    kind: 'woven',
    grounds: 1,
    carry: (seed) => [{ carried: weave(prepared, seed), share: null }],
  });
  // Beside a picture what is woven begins anew at its edge: another layout does so less.
  const last = () => (prepared.level && decider.decide().length > 2 ? laid(2)() : woven());
  const divided =
    division && ((): Plan => ({ kind: 'divided', grounds, carry: (seed) => carryDivided(prepared, division, seed) }));
  const trusted =
    division && division.roughness <= Math.max(SMOOTH.px, SMOOTH.share * size) && division.bend <= SMOOTH.bend;
  if (divided && trusted) return [divided, laid(0), laid(1)];
  if (divided && division) {
    // A ragged border looks as borders do there where large pieces bring it along, if only they put the grounds where they belong.
    const agree = decider
      .decide()
      .slice(0, 2)
      .map((l) => agreementOf(division, laidOn.levels[at], at, l));
    const best = agree[1] > agree[0] + 0.02 ? 1 : 0;
    return agree[best] >= AGREES ? [laid(best), laid(1 - best), divided] : [divided, laid(best), laid(1 - best)];
  }
  // Several grounds in no clear order are put together in large pieces: woven they would fade into each other.
  if (arcs >= 2 || spread > EVEN) return [laid(0), laid(1), last];
  if (!small && (seen.regularity >= REGULAR || decider.regular >= REPEATED)) return [laid(0), laid(1), last];
  return [woven, laid(0), laid(1)];
}

/** Share of a layout that must lie as the grounds are divided for it to be trusted with a ragged border. */
const AGREES = 0.9;

function agreementOf(division: Division, level: Level, at: number, { labels, moves }: Layout): number {
  const { width, beneath } = level;
  const donor = (i: number) => {
    const move = moves[labels[i]];
    const [x, y] = shownAt(width, beneath, (i % width) + move.x, Math.floor(i / width) + move.y);
    return y * width + x;
  };
  return agreement(division, windowAlone(level), at, donor);
}

/** A window seen from the front of a slanted plane, with its resolutions. */
function seenFromFront({ picture, levels }: Prepared, plane: Plane): Resolutions | null {
  const front = frontOf(picture, levels[0], plane);
  if (!front) return null;
  const { cover, known, allowed } = front.masks;
  const own = resolutionsOf(finestLevel(front.picture, cover, known, allowed));
  return own.levels[own.at].allowed.indexOf(1) < 0 ? null : own;
}

/** Each ground's part from its own kind; where they meet, one goes over into the other as fast as the picture does it. */
function carryDivided({ levels, at, level }: Prepared, division: Division, seed: number): Part[] | null {
  const soft = Math.max(...division.borders.map((b) => b.softness));
  const parts: Part[] = [];
  for (const [ground, mask] of masksOf(division, levels, at, soft).entries()) {
    const covered = coveredIn(mask.cover);
    if (covered < LEAST_PART) continue;
    const own = resolutionsOf({ ...levels[0], ...mask, covered }, level);
    if (own.levels[own.at].allowed.indexOf(1) < 0) return null;
    // The first one is laid as it is; others are laid over it: all inside, half on the border.
    const share = (x: number, y: number) => {
      let out = division.groundAt(x, y) === ground ? 1 : 0;
      for (const b of division.borders) {
        const d = Math.abs(signedDistance(b, x, y));
        if (d < soft) out = out ? 0.5 + d / (2 * soft) : 0.5 - d / (2 * soft);
      }
      return out;
    };
    parts.push({ carried: fillGround(own, seed, level ? 'picture' : undefined), share: parts.length ? share : null });
  }
  return parts;
}
