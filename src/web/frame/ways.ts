import type { Fault, PictureDocument } from '../../contract/document.ts';
import { turn as turnStep, largestWithin } from '../../core/chain/turn.ts';
import type { Placement, Proportion, SubjectPlace } from '../../core/frame/format.ts';
import { framingOf, framingOnPlace, type Framing } from '../../core/frame/framing.ts';
import { around, boxOf, contains, grow, intersect, isEmpty, union, type Box } from '../../core/raster/raster.ts';
import { amountsOf, slightlyOnto, type Amount } from '../../core/repair/stretch/amounts.ts';
import type { GrowingWay } from '../../core/plan/frame-ways.ts';
import type { JoinAccount } from '../../core/join/account.ts';
import { boundsWithin } from '../../core/mask/shapes.ts';

/** What somebody asks of a picture's frame. */
export interface Asked {
  /** null: the proportion that it has */
  proportion: Proportion | null;
  placement: Placement;
  subject: SubjectPlace | null;
  /** degrees that it leans clockwise */
  degrees: number;
}

/** One way to get there. */
export interface Way {
  way: 'crop' | GrowingWay;
  framing: Framing;
  /** what is kept or made, px of the turned picture */
  seen: Box;
  /** what is set when it is taken */
  set: { canvas: Box | null; turn: { degrees: number; about: [number, number]; crop: Box } | null };
}

type Size = Pick<Box, 'width' | 'height'>;

const middleOf = ({ width, height }: Size): [number, number] => [width / 2, height / 2];

/** A box that lies in another, moved as little as that takes. */
const within = (box: Box, outer: Box): Box => ({
  ...box,
  x: Math.min(Math.max(box.x, outer.x), outer.x + outer.width - box.width),
  y: Math.min(Math.max(box.y, outer.y), outer.y + outer.height - box.height),
});

/** The largest picture of a proportion that lies within the one there is. */
export function cropWay(source: Size, { proportion, placement, subject, degrees }: Asked): Way {
  const whole = boxOf(source);
  const ratio = proportion?.ratio ?? source.width / source.height;
  if (degrees === 0) {
    const framing = framingOnPlace(whole, ratio, 'crop', subject, placement);
    const canvas = framing.sides.left || framing.sides.top || framing.sides.right || framing.sides.bottom;
    return { way: 'crop', framing, seen: framing.canvas, set: { canvas: canvas ? framing.canvas : null, turn: null } };
  }
  // What is turned is cut so that no corner is a gap; what is left has no room to slide in.
  const seen = within(largestWithin(whole, degrees, ratio), whole);
  const framing = { ...framingOf(seen, seen.width / seen.height, 'crop', subject, { across: null, down: null }) };
  const lost = 1 - (seen.width * seen.height) / (source.width * source.height);
  const sides = {
    left: -seen.x,
    top: -seen.y,
    right: seen.x + seen.width - source.width,
    bottom: seen.y + seen.height - source.height,
  };
  const turn = { degrees, about: middleOf(source), crop: seen };
  return { way: 'crop', framing: { ...framing, lost, sides }, seen, set: { canvas: null, turn } };
}

/** The smallest picture of a proportion that holds all of the one there is; what it adds is filled. */
export function extendWay(source: Size, { proportion, placement, subject, degrees }: Asked): Way {
  const whole = boxOf(source);
  const ratio = proportion?.ratio ?? source.width / source.height;
  const framing = framingOnPlace(whole, ratio, 'extend', subject, placement);
  const seen = framing.canvas;
  if (degrees === 0) {
    const isGrown = seen.width > source.width || seen.height > source.height;
    return { way: 'extend', framing, seen, set: { canvas: isGrown ? seen : null, turn: null } };
  }
  const turn = { degrees, about: middleOf(source), crop: seen };
  const canvas = union(whole, turnStep(turn).needs(seen));
  const added = 1 - (source.width * source.height) / (canvas.width * canvas.height);
  return { way: 'extend', framing: { ...framing, added }, seen, set: { canvas, turn } };
}

/** How much of what a canvas adds was reached by drawing out. */
export type DrawnOver = 'all' | 'some' | null;

/** The canvas that a picture stands on, as the way that led to it: nothing else is asked for. */
export function standingWay(source: Size, canvas: Box, subject: SubjectPlace | null, drawn: DrawnOver): Way {
  const ratio = canvas.width / canvas.height;
  const framing = framingOf(canvas, ratio, 'crop', subject, { across: null, down: null });
  const sides = {
    left: 0 - canvas.x,
    top: 0 - canvas.y,
    right: canvas.x + canvas.width - source.width,
    bottom: canvas.y + canvas.height - source.height,
  };
  const kept = intersect(boxOf(source), canvas);
  const area = kept.width * kept.height;
  const lost = 1 - area / (source.width * source.height);
  const added = 1 - area / (canvas.width * canvas.height);
  const grown = drawn ? (drawn === 'all' ? 'stretch' : 'mixed') : 'extend';
  const way = drawn || contains(canvas, boxOf(source)) ? grown : 'crop';
  return { way, framing: { ...framing, lost, added, sides }, seen: canvas, set: { canvas, turn: null } };
}

/** What it adds is not filled but reached by drawing the background out; null without a subject, which would be drawn out too. */
export const stretchWay = (source: Size, asked: Asked): Way | null =>
  asked.subject && { ...extendWay(source, asked), way: 'stretch' };

/** How far that draws each side out. */
export const amountsOfWay = (way: Way, source: Size, subject: SubjectPlace | null): Amount[] => {
  const canvas = way.set.canvas ?? way.seen;
  const onto = way.way === 'mixed' ? ontoOf(way, source, subject) : canvas;
  return amountsOf(intersect(boxOf(source), canvas), onto, subject && subject.box);
};

/** As far as the background is drawn out where the rest is filled. */
export function ontoOf({ seen, set }: Way, source: Size, subject: SubjectPlace | null): Box {
  const canvas = set.canvas ?? seen;
  return slightlyOnto(intersect(boxOf(source), canvas), canvas, subject && subject.box);
}

/** What it adds is reached by drawing the background out a little and filling the rest; null where that is not some of each. */
export function mixedWay(source: Size, asked: Asked): Way | null {
  if (!asked.subject) return null;
  const way: Way = { ...extendWay(source, asked), way: 'mixed' };
  if (!way.set.canvas || asked.degrees !== 0) return null;
  const onto = ontoOf(way, source, asked.subject);
  const drawn = around(onto, intersect(boxOf(source), way.set.canvas)).length > 0;
  return drawn && around(way.set.canvas, onto).length > 0 ? way : null;
}

/** All ways there are; nothing is stretched without a subject. */
export interface Ways {
  crop: Way;
  extend: Way;
  stretch: Way | null;
  mixed: Way | null;
}

/** Open faults near what is added: what they hide lends nothing to it, and dirt around them would come again. */
export function firstToClean(faults: readonly Fault[], source: Size, { set, framing }: Way): Fault[] {
  const { canvas } = set;
  if (!canvas) return [];
  const whole = boxOf(source);
  const reach = Math.max(0, framing.sides.left, framing.sides.top, framing.sides.right, framing.sides.bottom);
  // Fills look about as far in as they have to reach out.
  const inner = { x: reach, y: reach, width: source.width - 2 * reach, height: source.height - 2 * reach };
  const grown = {
    left: canvas.x < 0,
    top: canvas.y < 0,
    right: canvas.x + canvas.width > source.width,
    bottom: canvas.y + canvas.height > source.height,
  };
  return faults.filter(({ kind, state, shapes }) => {
    if (kind === 'gap' || state !== 'open') return false;
    const box = intersect(boundsWithin(shapes, grow(whole, 1)), whole);
    if (isEmpty(box)) return false;
    return (
      (grown.left && box.x < inner.x) ||
      (grown.right && box.x + box.width > inner.x + inner.width) ||
      (grown.top && box.y < inner.y) ||
      (grown.bottom && box.y + box.height > inner.y + inner.height)
    );
  });
}

/** The largest part without gaps of a picture that was joined from frames; null once no gap is open, or where it is cut to that. */
export function raggedWhole({ whole }: Pick<JoinAccount, 'whole'>, { faults, steps }: PictureDocument): Box | null {
  const isOpen = faults.some((f) => f.kind === 'gap' && f.state === 'open');
  const isCut = steps.some(({ spec }) => spec.step === 'canvas' && contains(whole, spec.box));
  return isOpen && !isCut ? whole : null;
}
