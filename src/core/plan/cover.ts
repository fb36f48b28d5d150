import { depthOf, boundsOf, coveredPixels, type Mask } from '../mask/mask.ts';
import { boundsWithin, rasterise, scaleShapes, type Point, type Shape } from '../mask/shapes.ts';
import { intersect, isEmpty, union, type Box } from '../raster/raster.ts';
import { THIN_DEPTH } from '../repair/fill/settings.ts';

/** What is measured on a fault as it is marked. */
export interface FaultFacts {
  bounds: Box;
  /** covered pixels */
  area: number;
  /** px across at the widest place */
  width: number;
  /** the covered place nearest to the middle of its box: a wire that sags never passes through that */
  anchor: Point;
}

/** The covered pixel nearest to the middle of a mask's box. */
function anchorPointOf({ x, y, width, height, data }: Mask): Point {
  let anchor: Point = [x + width / 2, y + height / 2];
  let nearest = Infinity;
  for (let v = 0; v < height; v++) {
    for (let u = 0; u < width; u++) {
      const d = (u + 0.5 - width / 2) ** 2 + (v + 0.5 - height / 2) ** 2;
      if (!data[v * width + u] || d >= nearest) continue;
      nearest = d;
      anchor = [x + u + 0.5, y + v + 0.5];
    }
  }
  return anchor;
}

/** Least side in px of a close look, and how many times as large as the fault is across it may be. */
const LEAST_LOOK = 72;
const WIDEST_LOOK = 26;

/** Middle and side in px of a piece of the picture. */
export interface ThumbnailFrame {
  middle: Point;
  side: number;
}

/**
 * Piece of the picture that shows a fault so that it can be judged: all of it, or of a wire
 * or a fence, which would be thinner than a pixel then, a piece of it.
 */
export function thumbnailFrame({
  bounds,
  width,
  anchor,
}: Pick<FaultFacts, 'bounds' | 'width' | 'anchor'>): ThumbnailFrame {
  const whole = Math.max(LEAST_LOOK, Math.round(1.3 * Math.max(bounds.width, bounds.height)));
  const side = Math.min(whole, Math.max(LEAST_LOOK, Math.round(WIDEST_LOOK * width)));
  return { side, middle: side < whole ? anchor : [bounds.x + bounds.width / 2, bounds.y + bounds.height / 2] };
}

/** px of a mask from which on a fault is measured in a smaller picture: a canvas may hold a hundred times as many. */
const LARGEST = 4e6;
/** Boxes that are measured without a mask. */
const MOST_BOXES = 40;

/** Whole pixels that a box covers. */
function wholeBox({ x, y, width, height }: Box): Box {
  const [left, top] = [Math.round(x), Math.round(y)];
  return { x: left, y: top, width: Math.round(x + width) - left, height: Math.round(y + height) - top };
}

/** An area in a picture so many times smaller. */
const scaled = ({ x, y, width, height }: Box, by: number): Box => {
  const [left, top] = [Math.floor(x / by), Math.floor(y / by)];
  return { x: left, y: top, width: Math.ceil((x + width) / by) - left, height: Math.ceil((y + height) / by) - top };
};

/** What was measured in a picture so many times smaller, in px of the picture. */
function enlarged({ bounds, area, width, anchor }: FaultFacts, by: number): FaultFacts {
  return {
    bounds: { x: bounds.x * by, y: bounds.y * by, width: bounds.width * by, height: bounds.height * by },
    area: area * by * by,
    width: width * by,
    anchor: [anchor[0] * by, anchor[1] * by],
  };
}

/** Measures boxes by their sides alone, which costs the same however large they are. */
function measureBoxes(boxes: readonly Box[], box: Box): FaultFacts {
  const there = boxes.filter((b) => !isEmpty(b));
  const bounds = there.reduce(union, there[0] ?? { ...box, width: 0, height: 0 });
  const edges = (of: (b: Box) => [number, number]) => [...new Set(there.flatMap(of))].sort((a, b) => a - b);
  const xs = edges((b) => [b.x, b.x + b.width]);
  const ys = edges((b) => [b.y, b.y + b.height]);
  let area = 0;
  for (let i = 1; i < xs.length; i++)
    for (let j = 1; j < ys.length; j++)
      if (there.some((b) => b.x < xs[i] && b.x + b.width > xs[i - 1] && b.y < ys[j] && b.y + b.height > ys[j - 1]))
        area += (xs[i] - xs[i - 1]) * (ys[j] - ys[j - 1]);
  const [mx, my] = [bounds.x + bounds.width / 2, bounds.y + bounds.height / 2];
  const clamp = (v: number, from: number, to: number) => Math.min(to - 0.5, Math.max(from + 0.5, Math.ceil(v) - 0.5));
  const places = there.map((b): Point => [clamp(mx, b.x, b.x + b.width), clamp(my, b.y, b.y + b.height)]);
  const away = ([x, y]: Point) => (x - mx) ** 2 + (y - my) ** 2;
  return {
    bounds,
    area,
    width: Math.max(0, ...there.map((b) => 2 * Math.ceil(Math.min(b.width, b.height) / 2) - 1)),
    anchor: places.reduce((near, p) => (away(p) < away(near) ? p : near), places[0] ?? [box.x, box.y]),
  };
}

/** Measures a fault's shapes in an area of the picture; one that begins at 0, 0 where the area does not say where. */
export function measureFault(
  shapes: readonly Shape[],
  { x = 0, y = 0, width, height }: Partial<Box> & Pick<Box, 'width' | 'height'>,
): FaultFacts {
  const box = boundsWithin(shapes, { x, y, width, height });
  if (isEmpty(box)) return { bounds: box, area: 0, width: 0, anchor: [box.x, box.y] };
  const boxes = shapes.flatMap((s) => (s.kind === 'box' && s.op === 'add' ? [intersect(wholeBox(s), box)] : []));
  if (boxes.length === shapes.length && boxes.length <= MOST_BOXES) return measureBoxes(boxes, box);
  const by = Math.ceil(Math.sqrt((box.width * box.height) / LARGEST));
  if (by > 1) return enlarged(measureFault(scaleShapes(shapes, 1 / by), scaled({ x, y, width, height }, by)), by);
  const mask = rasterise(shapes, box);
  return {
    bounds: boundsOf(mask),
    area: coveredPixels(mask),
    width: Math.max(0, 2 * depthOf(mask) - 1),
    anchor: anchorPointOf(mask),
  };
}

/** Margin and feather in px for a cover, and why. */
export interface CoverProposal {
  margin: number;
  feather: number;
  reason: string;
}

/**
 * Proposes how far a cover exceeds its fault. The cover of a spot is 1.2 to 1.5 times the spot (common practice); a
 * strand gets a hard edge, since a soft one leaves a residue that the fill picks up (common practice).
 */
export function proposeCover(facts: Pick<FaultFacts, 'width'>): CoverProposal {
  const across = Math.max(1, facts.width);
  if (across <= 2 * THIN_DEPTH) {
    const margin = Math.max(1, Math.round(across * 0.15));
    return {
      margin,
      feather: 0,
      reason: `${Math.round(across)} px across: ${margin} px margin and a hard edge, so that nothing of it is left.`,
    };
  }
  const margin = Math.min(12, Math.max(2, Math.round(across * 0.1)));
  const feather = Math.min(6, Math.max(1, Math.round(across * 0.03)));
  return {
    margin,
    feather,
    reason: `${Math.round(across)} px across: ${margin} px margin and a soft edge of ${feather} px.`,
  };
}
