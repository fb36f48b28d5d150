import { intersect, type Box } from '../raster/raster.ts';
import { PLACES, sidesBetween, type Placement, type Sides, type SubjectPlace } from './format.ts';

/** A canvas of a wanted proportion, and what it takes. */
export interface Framing {
  canvas: Box;
  /** px to add on each side; negative where that side is cut */
  sides: Sides;
  /** share of the picture's area that is lost, and of the canvas's that is new */
  lost: number;
  added: number;
  /** where what is to stand on a third comes to stand: shares of width and height; null without a subject */
  stands: { across: number; down: number } | null;
  /** px by which that misses the place asked for; 0 where none was asked for or it stands there */
  misses: { across: number; down: number };
  /** px of the subject that lie outside the canvas */
  cut: number;
}

/** Where a stretch of some length begins so that a place stands at a share of it, kept between limits. */
function beginning(length: number, focus: number | null, share: number | null, least: number, most: number): number {
  const [from, to] = [Math.min(least, most), Math.max(least, most)];
  const wanted = focus === null || share === null ? (from + to) / 2 : focus - share * length;
  return Math.round(Math.min(to, Math.max(from, wanted)));
}

/**
 * The smallest canvas of a proportion that holds the whole picture (`extend`), or the largest one within it (`crop`), with the
 * subject where it is wanted as nearly as that allows: the canvas slides along the one direction in which it has room.
 *
 * @param picture the box of the picture as it stands, px
 * @param ratio width over height
 * @throws RangeError when the proportion or the picture is none
 * Source: arithmetic; thirds as in common practice.
 */
export function framingOf(
  picture: Box,
  ratio: number,
  way: 'extend' | 'crop',
  subject: SubjectPlace | null = null,
  placement: Placement = { across: null, down: null },
): Framing {
  if (!(ratio > 0) || picture.width < 1 || picture.height < 1) throw new RangeError('A canvas needs a proportion.');
  const isNarrow = picture.width / picture.height < ratio;
  const byHeight = (way === 'extend') === isNarrow;
  const width = byHeight ? Math.max(1, Math.round(picture.height * ratio)) : picture.width;
  const height = byHeight ? picture.height : Math.max(1, Math.round(picture.width / ratio));
  const shares = {
    across: placement.across && PLACES[placement.across],
    down: placement.down && PLACES[placement.down],
  };
  const canvas = {
    x: beginning(width, subject && subject.focus[0], shares.across, picture.x, picture.x + picture.width - width),
    y: beginning(height, subject && subject.focus[1], shares.down, picture.y, picture.y + picture.height - height),
    width,
    height,
  };
  return { canvas, ...costs(picture, canvas, subject, shares) };
}

/** Share of the long side up to which a place counts as stood on. */
export const NEARLY = 0.005;

/** Whether a subject stands where it was asked for. */
export const isOnPlace = ({ canvas, misses }: Framing): boolean =>
  Math.max(Math.abs(misses.across), Math.abs(misses.down)) <= NEARLY * Math.max(canvas.width, canvas.height);

const areaOf = ({ width, height }: Box) => Math.max(0, width) * Math.max(0, height);

/** What a canvas takes and loses of a picture. */
function costs(
  picture: Box,
  canvas: Box,
  subject: SubjectPlace | null,
  shares: { across: number | null; down: number | null },
): Omit<Framing, 'canvas'> {
  const both = areaOf(intersect(picture, canvas));
  const stands = subject && {
    across: (subject.focus[0] - canvas.x) / canvas.width,
    down: (subject.focus[1] - canvas.y) / canvas.height,
  };
  const miss = (at: number | undefined, wanted: number | null, length: number) =>
    at === undefined || wanted === null ? 0 : Math.round((at - wanted) * length);
  return {
    sides: sidesBetween(picture, canvas),
    lost: 1 - both / areaOf(picture),
    added: 1 - both / areaOf(canvas),
    stands,
    misses: {
      across: miss(stands?.across, shares.across, canvas.width),
      down: miss(stands?.down, shares.down, canvas.height),
    },
    cut: subject ? areaOf(subject.box) - areaOf(intersect(subject.box, canvas)) : 0,
  };
}

/**
 * A canvas of a proportion that has the subject where it is wanted, in both directions: the smallest that holds the whole picture
 * (`extend`), or the largest within it (`crop`). It grows or shrinks past what the proportion alone asks for where the subject stands
 * too near an edge.
 */
function framingByPlace(
  picture: Box,
  ratio: number,
  way: 'extend' | 'crop',
  subject: SubjectPlace,
  placement: Placement,
): Framing {
  const shares = {
    across: placement.across && PLACES[placement.across],
    down: placement.down && PLACES[placement.down],
  };
  const [x, y] = subject.focus;
  const [furthest, whole] = way === 'extend' ? [Math.max, Math.ceil] : [Math.min, Math.floor];
  /** the length that holds a stretch, or fits into it, with a place at a share of it */
  const lengthOf = (from: number, length: number, place: number, share: number | null) =>
    share === null ? length : furthest((place - from) / share, (from + length - place) / (1 - share));
  const across = lengthOf(picture.x, picture.width, x, shares.across);
  const down = lengthOf(picture.y, picture.height, y, shares.down);
  const width = Math.max(1, whole(furthest(across, down * ratio)));
  const rounded = Math.max(1, Math.round(width / ratio));
  const height = way === 'crop' ? Math.min(picture.height, rounded) : rounded;
  const canvas = {
    x: beginning(width, x, shares.across, picture.x, picture.x + picture.width - width),
    y: beginning(height, y, shares.down, picture.y, picture.y + picture.height - height),
    width,
    height,
  };
  return { canvas, ...costs(picture, canvas, subject, shares) };
}

/** Times the picture's area up to which a canvas grows to have the subject where it is wanted. */
const MOST_GROWN = 4;

/**
 * {@link framingOf}, and where the subject misses its place by that, a smaller or larger canvas on which it does not.
 */
export function framingOnPlace(
  picture: Box,
  ratio: number,
  way: 'extend' | 'crop',
  subject: SubjectPlace | null,
  placement: Placement,
): Framing {
  const sliding = framingOf(picture, ratio, way, subject, placement);
  if (!subject || isOnPlace(sliding)) return sliding;
  const other = framingByPlace(picture, ratio, way, subject, placement);
  const isTooLarge = areaOf(other.canvas) > MOST_GROWN * areaOf(picture);
  return isTooLarge || !isOnPlace(other) ? sliding : other;
}

/**
 * Room above the subject, and before and behind it where it looks, as shares of the canvas.
 * Common practice: a head has about a tenth of the height above it; a look has more room before it than behind.
 */
export function roomOf(canvas: Box, { box, looks }: SubjectPlace): { head: number; before: number; behind: number } {
  const left = (box.x - canvas.x) / canvas.width;
  const right = (canvas.x + canvas.width - box.x - box.width) / canvas.width;
  return {
    head: (box.y - canvas.y) / canvas.height,
    before: looks < 0 ? left : right,
    behind: looks < 0 ? right : left,
  };
}

/** Resolution of a picture on paper, px per inch (25.4 mm to the inch), and by how much it falls short of what is asked for. */
export function resolutionAt(px: number, mm: number, asked: number): { ppi: number; short: number } {
  const ppi = (px * 25.4) / mm;
  return { ppi, short: Math.max(0, 1 - ppi / asked) };
}
