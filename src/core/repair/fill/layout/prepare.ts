import { boundsOf } from '../../../mask/mask.ts';
import { crop, cropPlane, isEmpty, type Box, type Raster, type Samples } from '../../../raster/raster.ts';
import { lookedAt } from '../fill-region.ts';
import { guidesFrom, type Guides } from '../grounds/guides.ts';
import { reachOf } from '../settings.ts';
import { likeAround } from './around.ts';
import { levelWhereAcross } from './decide.ts';
import { coveredIn, finestLevel, halveLevel, type Level } from './levels.ts';

/** Size of the cover (square root of its area, px) at the level where a layout is decided. */
const DECIDED_ACROSS = 60;

/** What a layout is decided and carried out on. */
export interface LayoutRegion {
  picture: Raster;
  /** 1 where pixels are to be found */
  cover: Uint8Array;
  /** 1 where a pixel may be looked at; 0 on the cover and on what else is not to count. Default: all that is not covered */
  known?: Uint8Array;
  /** 1 where pixels may be taken from; only known ones */
  allowed: Uint8Array;
  /** somebody has said where they are taken from: nothing of that is left out for being unlike what is around */
  chosen?: boolean;
  guides?: Guides;
  /** see {@link FillRegion} */
  level?: boolean;
  /** see {@link Decider} */
  quick?: boolean;
}

/** The part of a picture that a layout of a cover looks at. */
function layoutWindow(cover: Uint8Array, width: number, height: number, level?: boolean): Box {
  const bounds = boundsOf({ x: 0, y: 0, width, height, data: cover });
  if (isEmpty(bounds)) return bounds;
  const across = Math.max(Math.sqrt(coveredIn(cover)), Math.min(bounds.width, bounds.height));
  return lookedAt(bounds, reachOf('first', across), width, height, level);
}

/** A window's resolutions, and the level at which its layout is decided. */
export interface Resolutions {
  levels: Level[];
  at: number;
  /** see {@link FillRegion} */
  level?: boolean;
}

/** Halves a window until its layout can be decided, and twice more where that leaves anything. */
export function resolutionsOf(finest: Level, level?: boolean): Resolutions {
  const levels = [finest];
  for (;;) {
    const last = levels[levels.length - 1];
    const at = levelWhereAcross(levels, DECIDED_ACROSS);
    const decided = Math.sqrt(last.covered) <= DECIDED_ACROSS;
    if ((decided && levels.length > at + 2) || Math.min(last.width, last.height) < 24) return { levels, at, level };
    levels.push(halveLevel(last));
  }
}

/** A cover's window, cut out of the picture. */
export interface Window extends LayoutRegion {
  window: Box;
  known: Uint8Array;
}

/** A window at all its resolutions. */
export interface Prepared extends Resolutions, Window {}

export function windowOf({ picture, cover, known, allowed, guides, ...how }: LayoutRegion): Window {
  const window = layoutWindow(cover, picture.width, picture.height, how.level);
  const part = (plane: Uint8Array) => cropPlane(plane, picture.width, window);
  const own = part(cover);
  return {
    window,
    picture: crop(picture, window),
    cover: own,
    known: known ? part(known) : own.map((v) => 1 - v),
    allowed: part(allowed),
    guides: guides && guidesFrom(guides, window.x, window.y),
    ...how,
  };
}

export function prepare(cut: Window): Prepared {
  const { picture, cover, known, allowed } = cut;
  const all = resolutionsOf(finestLevel(picture, cover, known, allowed), cut.level);
  const alike = cut.chosen ? null : likeAround(all.levels[all.at]);
  const own = alike && resolutionsOf({ ...all.levels[0], allowed: within(alike, all, allowed) }, cut.level);
  return { ...cut, ...(own ?? all) };
}

/** What of a window's finest level lies in a mask of the level that is decided at. */
function within(mask: Uint8Array, { levels, at }: Resolutions, allowed: Uint8Array): Uint8Array {
  const [{ width }, { width: across }] = [levels[0], levels[at]];
  return allowed.map((v, i) => v & mask[(Math.floor(i / width) >> at) * across + ((i % width) >> at)]);
}

/** Whether a window shows what one that is prepared shows, in the same place. */
export function sameWindow(prepared: Window, other: Window): boolean {
  const { window, picture, guides, cover, known, allowed } = prepared;
  const [a, b] = [window, other.window];
  if (a.x !== b.x || a.y !== b.y || a.width !== b.width || a.height !== b.height) return false;
  if (picture.depth !== other.picture.depth || picture.channels !== other.picture.channels) return false;
  if (prepared.chosen !== other.chosen || prepared.level !== other.level) return false;
  if (JSON.stringify(guides) !== JSON.stringify(other.guides)) return false;
  return (
    same(cover, other.cover) &&
    same(known, other.known) &&
    same(allowed, other.allowed) &&
    same(picture.data, other.picture.data)
  );
}

function same(a: Samples, b: Samples): boolean {
  const words = (s: Samples) => new Int32Array(s.buffer, s.byteOffset, s.byteLength >> 2);
  const [p, q] = [words(a), words(b)];
  for (let i = 0; i < p.length; i++) if (p[i] !== q[i]) return false;
  for (let i = (4 * p.length) / a.BYTES_PER_ELEMENT; i < a.length; i++) if (a[i] !== b[i]) return false;
  return a.length === b.length;
}
