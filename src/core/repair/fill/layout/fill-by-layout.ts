import { boundsOf } from '../../../mask/mask.ts';
import {
  colourChannels,
  crop,
  cropPlane,
  fullScale,
  growWithin,
  isEmpty,
  type Box,
  type Raster,
} from '../../../raster/raster.ts';
import { signedDistance } from '../grounds/border.ts';
import { agreement, lookAround, masksOf, type Division } from '../grounds/division.ts';
import { findPlane, fromFront, REGULAR, toFront, type Plane, type Seen } from '../grounds/plane.ts';
import { reachOf } from '../settings.ts';
import { carryUp, piecesOf, type Pieces } from './carry.ts';
import { Decider, levelWhereAcross, type Layout } from './decide.ts';
import { decideEven } from './even.ts';
import { frontOf, sampleWindow } from './front.ts';
import { joinSeams, type Joined } from './join.ts';
import { coveredIn, finestLevel, halveLevel, type Level } from './levels.ts';
import { surfaceOf } from './surface.ts';
import { BORDER_STEP, toneAt, toneOf, WITHIN_STEP, type Tone } from './tone.ts';

/** Size of the cover (square root of its area, px) at the level where a layout is decided, and where tone is solved. */
const DECIDED_ACROSS = 60;
const TONE_ACROSS = 155;
/** The same where one ground is woven from many places, which takes finer detail. */
const WOVEN_ACROSS = 140;
/** Below so many covered px a ground's part is too small to be laid out by itself. */
const LEAST_PART = 12;

/** What a layout is decided and carried out on. */
export interface LayoutRegion {
  picture: Raster;
  /** 1 where pixels are to be found */
  cover: Uint8Array;
  /** 1 where a pixel may be looked at; 0 on the cover and on what else is not to count. Default: all that is not covered */
  known?: Uint8Array;
  /** 1 where pixels may be taken from; only known ones */
  allowed: Uint8Array;
}

/** The part of a picture that a layout of a cover looks at. */
export function layoutWindow(cover: Uint8Array, width: number, height: number): Box {
  const bounds = boundsOf({ x: 0, y: 0, width, height, data: cover });
  if (isEmpty(bounds)) return bounds;
  const across = Math.max(Math.sqrt(coveredIn(cover)), Math.min(bounds.width, bounds.height));
  return growWithin(bounds, reachOf('first', across), width, height);
}

/** A window's resolutions, and the level at which its layout is decided. */
export interface Resolutions {
  levels: Level[];
  at: number;
}

/** Halves a window until its layout can be decided, and twice more where that leaves anything. */
export function resolutionsOf(finest: Level): Resolutions {
  const levels = [finest];
  for (;;) {
    const last = levels[levels.length - 1];
    const at = levelWhereAcross(levels, DECIDED_ACROSS);
    const decided = Math.sqrt(coveredIn(last.cover)) <= DECIDED_ACROSS;
    if ((decided && levels.length > at + 2) || Math.min(last.width, last.height) < 24) return { levels, at };
    levels.push(halveLevel(last));
  }
}

/** A cover's window, cut out of the picture. */
export interface Prepared extends Resolutions {
  window: Box;
  picture: Raster;
}

export function prepare({ picture, cover, known, allowed }: LayoutRegion): Prepared {
  const window = layoutWindow(cover, picture.width, picture.height);
  const part = (plane: Uint8Array) => cropPlane(plane, picture.width, window);
  const own = part(cover);
  const cut = crop(picture, window);
  const seen = known ? part(known) : own.map((v) => 1 - v);
  return { window, picture: cut, ...resolutionsOf(finestLevel(cut, own, seen, part(allowed))) };
}

/** A layout carried out to the finest level, with its corrections of tone. */
interface Carried {
  pieces: Pieces;
  tone: Tone;
  joined: Joined;
}

function carryOut({ levels, at }: Resolutions, layout: Layout, step: number): Carried {
  let pieces = piecesOf(levels[at], layout.labels, layout.moves);
  for (let l = at - 1; l >= 0; l--) pieces = carryUp(pieces, levels[l]);
  const shift = levelWhereAcross(levels, TONE_ACROSS);
  const surface = step === WITHIN_STEP ? surfaceOf(levels[shift]) : null;
  const tone = toneOf(pieces, levels[shift], shift, step, surface);
  return { pieces, tone, joined: joinSeams(pieces, levels[0], tone, step) };
}

/**
 * Ways of laying a cover out. `divided`: the grounds around are told apart, their borders run on inside, each is filled from its
 * own kind. `ground`: large pieces, seams where tone on the large agrees. `detail`: large pieces, seams where lines and courses
 * meet. `woven`: one ground, put together from many small places.
 */
export type LayoutKind = 'divided' | 'ground' | 'detail' | 'woven';

/** Courses of borders that are trusted: strays from them, as a share of the cover's size and in px, and how they bend. */
const SMOOTH = { share: 0.0028, px: 1.2, bend: 1 };
/** Covers below so many px across show no structure that would repeat in them. */
const SMALL = 44;
/** Share of patches with their likes at one of a few moves from which on structure is taken to be regular. */
const REPEATED = 0.2;

/** One way of laying a cover out, ready to be carried out. */
interface Plan {
  kind: LayoutKind;
  /** how many grounds are told apart */
  grounds: number;
  carry(): Part[] | null;
}

/** What one ground, or the whole, lays into the cover. */
interface Part {
  carried: Carried;
  /** the plane in which the pieces lie, where it is not seen from the front */
  plane?: Plane;
  /** how much of it counts at a place of the window; null: all */
  share: ((x: number, y: number) => number) | null;
}

/**
 * The ways of laying a cover out, the one to be preferred first: as the grounds lie where their borders can be followed; as the
 * pieces around suggest where several grounds or regular structure are there; woven where all is of one ground.
 */
function plansOf(prepared: Prepared, seed: number): Array<() => Plan> {
  const { levels, at } = prepared;
  const size = Math.sqrt(coveredIn(levels[0].cover));
  const { arcs, division } = lookAround(levels, at, size);
  const small = size < SMALL;
  const seen: Seen = !small && !division ? findPlane(levels) : { regularity: 0, plane: null };
  const front = seen.plane && seenFromFront(prepared, seen.plane);
  const decider = new Decider(front ? front.levels : levels, front ? front.at : at, seed);
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
        { carried: carryOut(front ?? prepared, layout, step), share: null, plane: seen.plane ?? undefined },
      ],
    };
  };
  const woven = (): Plan => ({
    kind: 'woven',
    grounds: 1,
    carry: () => [{ carried: weave(prepared, seed), share: null }],
  });
  const divided =
    division && ((): Plan => ({ kind: 'divided', grounds, carry: () => carryDivided(prepared, division, seed) }));
  const trusted =
    division && division.roughness <= Math.max(SMOOTH.px, SMOOTH.share * size) && division.bend <= SMOOTH.bend;
  if (divided && trusted) return [divided, laid(0), laid(1)];
  if (divided && division) {
    // A ragged border looks as borders do there where large pieces bring it along, if only they put the grounds where they belong.
    const agree = decider
      .decide()
      .slice(0, 2)
      .map((l) => agreementOf(division, levels[at], at, l));
    const best = agree[1] > agree[0] + 0.02 ? 1 : 0;
    return agree[best] >= AGREES ? [laid(best), laid(1 - best), divided] : [divided, laid(best), laid(1 - best)];
  }
  if (arcs >= 2) return [laid(0), laid(1), woven];
  if (!small && (seen.regularity >= REGULAR || decider.regular >= REPEATED)) return [laid(0), laid(1), woven];
  return [woven, laid(0), laid(1)];
}

/** Share of a layout that must lie as the grounds are divided for it to be trusted with a ragged border. */
const AGREES = 0.9;

function agreementOf(division: Division, level: Level, at: number, { labels, moves }: Layout): number {
  const donor = (i: number) => i + moves[labels[i]].y * level.width + moves[labels[i]].x;
  return agreement(division, level, at, donor);
}

/** A window seen from the front of a slanted plane, with its resolutions. */
function seenFromFront({ picture, levels }: Prepared, plane: Plane): Resolutions | null {
  const front = frontOf(picture, levels[0], plane);
  const { cover, known, allowed } = front.masks;
  const own = resolutionsOf(finestLevel(front.picture, cover, known, allowed));
  return own.levels[own.at].allowed.indexOf(1) < 0 ? null : own;
}

/** A cover filled by a layout. */
export interface LaidOut {
  picture: Raster;
  kind: LayoutKind;
  grounds: number;
}

/**
 * Fills a cover by the layout of a rank, the preferred one first.
 * @param tone share of the correction of tone that is applied, 0 to 1
 * @returns a copy of the picture with the cover filled
 * @throws Error 'no donors' when nothing may be taken
 */
export function fillByLayout(
  region: LayoutRegion,
  { seed, rank, tone }: { seed: number; rank: number; tone: number },
  onProgress?: (done: number) => void,
): LaidOut {
  const { picture } = region;
  const prepared = prepare(region);
  const { levels, at, window } = prepared;
  if (levels[at].allowed.indexOf(1) < 0) throw new Error('no donors');
  onProgress?.(0.1);
  const plans = plansOf(prepared, seed);
  const order = [plans[rank], ...plans];
  for (const plan of order) {
    const { kind, grounds, carry } = plan();
    onProgress?.(0.4);
    const parts = carry();
    onProgress?.(0.9);
    if (!parts) continue;
    const out: Raster = { ...picture, data: picture.data.slice() };
    for (const part of parts) paint(out, prepared.picture, window, levels[0].cover, part, tone);
    onProgress?.(1);
    return { picture: out, kind, grounds };
  }
  throw new Error('no donors');
}

/** One ground: woven where that can be done at full resolution, else laid out in large pieces, which keep their detail. */
function fillGround(own: Resolutions, seed: number): Carried {
  if (levelWhereAcross(own.levels, WOVEN_ACROSS) === 0) return weave(own, seed);
  const [layout] = new Decider(own.levels, own.at, seed).decide();
  return carryOut(own, layout, WITHIN_STEP);
}

/** One ground woven from many places, at a resolution that does not take long. */
function weave({ levels }: Resolutions, seed: number): Carried {
  const at = levelWhereAcross(levels, WOVEN_ACROSS);
  return carryOut({ levels, at }, decideEven(levels[at], at, seed), WITHIN_STEP);
}

/** Each ground's part from its own kind; where they meet, one goes over into the other as fast as the picture does it. */
function carryDivided({ levels, at }: Prepared, division: Division, seed: number): Part[] | null {
  const soft = Math.max(...division.borders.map((b) => b.softness));
  const parts: Part[] = [];
  for (const [ground, mask] of masksOf(division, levels, at, soft).entries()) {
    if (coveredIn(mask.cover) < LEAST_PART) continue;
    const own = resolutionsOf({ ...levels[0], ...mask });
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
    parts.push({ carried: fillGround(own, seed), share: parts.length ? share : null });
  }
  return parts;
}

/** Copies each piece's pixels with their correction of tone, over what other grounds have laid there. */
function paint(out: Raster, picture: Raster, window: Box, cover: Uint8Array, part: Part, toneShare: number): void {
  const { carried, share, plane } = part;
  const { box, labels, moves } = carried.pieces;
  const { channels, data } = picture;
  const colours = colourChannels(channels);
  const top = fullScale(picture.depth);
  const scale = (toneShare * top) / 255;
  const add = new Float32Array(3);
  const write = (px: number, py: number, at: number, value: (c: number) => number) => {
    const own = share ? share(px + 0.5, py + 0.5) : 1;
    if (own <= 0) return;
    correction(carried, at, add);
    const to = ((window.y + py) * out.width + window.x + px) * channels;
    for (let c = 0; c < colours; c++) {
      const v = Math.min(top, Math.max(0, value(c) + scale * add[c]));
      out.data[to + c] = Math.round(own === 1 ? v : own * v + (1 - own) * out.data[to + c]);
    }
  };
  if (!plane) {
    for (let y = 0, i = 0; y < box.height; y++) {
      for (let x = 0; x < box.width; x++, i++) {
        const piece = labels[i];
        if (piece < 0) continue;
        const [px, py] = [box.x + x, box.y + y];
        const from = ((py + moves[piece].y) * picture.width + px + moves[piece].x) * channels;
        write(px, py, i, (c) => data[from + c]);
      }
    }
    return;
  }
  // Each covered pixel takes the piece that lies there on the plane, and samples the picture once, where that piece comes from.
  const area = boundsOf({ x: 0, y: 0, width: picture.width, height: picture.height, data: cover });
  const place = new Float64Array(2);
  const pieceAt = (x: number, y: number): number => {
    if (!toFront(plane, x, y, place)) return -1;
    const u = Math.floor(place[0]) - box.x;
    const v = Math.floor(place[1]) - box.y;
    const i = v * box.width + u;
    return u >= 0 && v >= 0 && u < box.width && v < box.height && labels[i] >= 0 ? i : -1;
  };
  const found = new Int32Array(area.width * area.height).fill(-1);
  for (let y = 0, n = 0; y < area.height; y++)
    for (let x = 0; x < area.width; x++, n++)
      if (cover[(area.y + y) * picture.width + area.x + x]) found[n] = pieceAt(area.x + x + 0.5, area.y + y + 0.5);
  const donor = (x: number, y: number, to: Float64Array) => {
    const i = pieceAt(x, y);
    const move = moves[labels[i]];
    if (!fromFront(plane, place[0] + move.x, place[1] + move.y, to)) to[0] = to[1] = -1;
  };
  const sampled = sampleWindow(
    picture,
    area,
    donor,
    Uint8Array.from(found, (i) => (i >= 0 ? 1 : 0)),
  );
  for (let n = 0; n < found.length; n++) {
    if (found[n] < 0) continue;
    const x = n % area.width;
    write(area.x + x, area.y + (n - x) / area.width, found[n], (c) => sampled.values[n * colours + c]);
  }
}

/** The correction of tone of a pixel of a cover's box. */
function correction({ pieces, tone, joined }: Carried, i: number, add: Float32Array): void {
  const node = joined.node[i];
  if (node >= 0) {
    for (let c = 0; c < 3; c++) add[c] = joined.add[4 * node + c];
    return;
  }
  const { box, labels } = pieces;
  const x = i % box.width;
  toneAt(tone, labels[i], box.x + x, box.y + (i - x) / box.width, add);
}
