import { kindFacts, type FaultKind } from '../faults/kinds.ts';
import { distanceTransform } from '../mask/distance.ts';
import { acrossOf, coverBounds, rasterise, type Shape } from '../mask/shapes.ts';
import { growWithin, isEmpty, type Raster } from '../raster/raster.ts';
import { crop } from '../raster/raster.ts';
import { blur } from '../raster/planes.ts';
import { lumaPlane } from '../raster/luma.ts';
import { measureEnds } from '../check/ends.ts';
import { CLEAR_SPREAD, MOST_SPREAD, type Ends } from '../check/reach.ts';
import { printEdgesThrough } from '../find/print-edges.ts';
import { lostAlong } from '../repair/lift/along-line.ts';
import { CROSSING_DEPTH, THIN_DEPTH } from '../repair/fill/settings.ts';

/** What is measured on a fault's surroundings. */
export interface Surroundings {
  /** px across the fault */
  across: number;
  /** px from the fault to the nearest strong edge; Infinity when there is none within reach */
  edge: number;
  /** whether a strong edge runs into the fault and out of it again */
  crossed: boolean;
  /** how much tone differs around it, levels of 255 (standard deviation of the blurred rim) */
  uneven: number;
  /** fine detail around it, levels of 255 (standard deviation of what a blur of 2 px takes away) */
  texture: number;
}

/** What is proposed for a fault, and why in one sentence. */
export interface Advice {
  /** how it is best treated */
  method: 'fill' | 'lift';
  margin: number;
  feather: number;
  /** 0 to 1 */
  strength: number;
  /** px around the fault in which donors are looked for */
  reach: number;
  /** into how many portions a large one is best divided */
  portions: number;
  /** what of a fault that is lifted cannot be read any more and is filled */
  lost?: Shape[];
  /** straight edges that run on inside it, each side of which is filled by itself */
  edges?: Shape[];
  reason: string;
}

/** Levels per px from which on a slope counts as a strong edge. */
const STRONG = 22;
/** px by which the cover of what is gone along a line exceeds it. */
const LOST_MARGIN = 2;
/** How much deeper a mesh is where strands cross than where they are covered widest: by what its soft edges want as a margin. */
const CROSSED = 1.35;
/** px across up to which lettering is made of strokes, which are covered tightly. */
const STROKE = 40;
/** px by which the cover of a tear exceeds it: its rim is sharp, and sound paper beside it is worth more than anything made. */
const TORN_MARGIN = 3;
/** px around a fault that are looked at. */
const LOOK = 40;
/** px across from which on an object is large: filled in portions (common practice). */
const LARGE = 260;

/** Measures what is around a fault. */
export function surroundingsOf(picture: Raster, shapes: readonly Shape[], across: number): Surroundings {
  const box = coverBounds(shapes, 0, 0, picture.width, picture.height);
  if (isEmpty(box)) return { across, edge: Infinity, crossed: false, uneven: 0, texture: 0 };
  const frame = growWithin(box, LOOK, picture.width, picture.height);
  const part = crop(picture, frame);
  const luma = lumaPlane(part);
  const { width, height } = part;
  const mask = rasterise(shapes, frame).data;
  const away = distanceTransform(mask, width, height, 'inside');
  const soft = blur(luma, width, height, 2);
  let edge = Infinity;
  let [n, sum, square, fine] = [0, 0, 0, 0];
  const rim: Array<{ angle: number; strong: boolean }> = [];
  const [cx, cy] = [box.x + box.width / 2 - frame.x, box.y + box.height / 2 - frame.y];
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const d = away[i];
      // Nearer than this the fault's own blur would count as an edge.
      if (d < 5 || d > LOOK) continue;
      const slope = Math.hypot(soft[i + 1] - soft[i - 1], soft[i + width] - soft[i - width]) / 2;
      if (slope * 2.5 > STRONG && d < edge) edge = d;
      if (d > 12) continue;
      n++;
      sum += soft[i];
      square += soft[i] * soft[i];
      fine += (luma[i] - soft[i]) ** 2;
      if (d < 8) rim.push({ angle: Math.atan2(y - cy, x - cx), strong: slope * 2.5 > STRONG });
    }
  }
  const sectors = new Set(
    rim.filter((r) => r.strong).map((r) => Math.floor(((r.angle + Math.PI) / (2 * Math.PI)) * 12) % 12),
  );
  const list = [...sectors];
  const crossed = list.some((a) => list.some((b) => Math.min((a - b + 12) % 12, (b - a + 12) % 12) >= 4));
  return {
    across,
    edge,
    crossed,
    uneven: n ? Math.sqrt(Math.max(0, square / n - (sum / n) ** 2)) : 0,
    texture: n ? Math.sqrt(fine / n) : 0,
  };
}

/** Said of what is lifted. */
const LET_THROUGH = ', and lets the picture through: lift takes it off and keeps what is beneath.';

/** How sure a band along a line has to be for it to be lifted. */
const BAND_SURE = 2;

/** Largest margin that is proposed, px: as far as it can be set at the bench. */
const WIDEST = 40;
/** px by which more is proposed than is usual where what is around scatters. */
const SCATTERED = 6;
/** px that a soft edge has to run on for it to be spoken of. */
const SOFT = 4;

/** px that a fault's own edge has to lie outside its mark for that to be spoken of. */
const INSIDE = 3;

/** Margin that reaches to where a fault really ends, and what is said of it. */
function reaching(ends: Ends, usual: number): { margin: number; said: string } {
  if (ends.spread > MOST_SPREAD) return { margin: usual, said: ' Where it ends cannot be told on this ground.' };
  const reach = Math.round(ends.reach);
  const clear = ends.spread < CLEAR_SPREAD;
  const margin = clear ? Math.min(WIDEST, Math.max(1, reach)) : Math.min(usual + SCATTERED, Math.max(usual, reach));
  const runs =
    ends.edge >= INSIDE
      ? `It goes on ${px(ends.edge)} beyond its mark, its soft edge to ${px(reach)}`
      : `Its edge runs on ${px(reach)}`;
  const said = reach >= SOFT ? ` ${runs}: margin ${margin}${clear ? '' : ', not sure on this ground'}.` : '';
  return { margin, said };
}

/** What is proposed for a cover, with the margin that reaches to where the fault really ends. */
function fitted(usual: Advice, picture: Raster, shapes: readonly Shape[], edge: number, thin: boolean): Advice {
  if (usual.method === 'lift') return usual;
  const ends = measureEnds(picture, shapes, [], thin);
  const { margin, said } = ends ? reaching(ends, usual.margin) : { margin: usual.margin, said: '' };
  const sure = ends && ends.spread < CLEAR_SPREAD;
  const other =
    !sure && edge < margin
      ? ` A strong edge ${px(edge)} away comes under its cover: less margin if that is another thing.`
      : '';
  return { ...usual, margin, reason: `${usual.reason}${said}${other}` };
}

/** What is proposed for a tear: a print's margin and its picture are rebuilt apart. */
function apartAtEdges(usual: Advice, picture: Raster, shapes: Shape[]): Advice {
  const edges = printEdgesThrough(picture, shapes);
  if (!edges.length) return usual;
  const reason = `${px(usual.margin)} beyond its rim; the print’s edge runs on through it: its paper and its picture are rebuilt apart.`;
  return { ...usual, portions: 1, edges, reason };
}

/** Proposes how a fault is treated, from the pixels around it. */
export function advise(picture: Raster, kind: FaultKind, shapes: Shape[], across: number): Advice {
  const around = surroundingsOf(picture, shapes, across);
  const usual = fitted(adviseCover(kind, around), picture, shapes, around.edge, kind === 'strand');
  if (kind === 'tear') return apartAtEdges(usual, picture, shapes);
  const band = kindFacts(kind).banded ? lostAlong(picture, shapes) : null;
  if (!band || band.certainty < BAND_SURE) return usual;
  const lost = band.lost.reduce((most, s) => Math.max(most, acrossOf(s)), 0);
  const gone = lost ? `, ${px(lost)} of it gone: lift the band, fill what is gone` : ': lift it';
  return {
    ...usual,
    method: 'lift',
    margin: LOST_MARGIN,
    feather: 0,
    strength: 1,
    ...(lost && { lost: band.lost }),
    reason: `A band that lets the picture through${gone}.`,
  };
}

const px = (v: number) => `${Math.round(v)} px`;

/**
 * Proposes margin, feather, strength, reach and portions for a fault. All rules are common practice: the cover of a spot is 1.2
 * to 1.5 times the spot; strands want a hard edge; beside a strong edge a soft cover would smear the other side in; large objects are
 * filled in portions; what lets the picture through is lifted.
 */
export function adviseCover(kind: FaultKind, measured: Surroundings): Advice {
  // Where strands cross they are deeper than any of them is wide.
  const crossed = kind === 'mesh' && measured.across <= 2 * CROSSING_DEPTH;
  const s = crossed ? { ...measured, across: measured.across / CROSSED } : measured;
  if (kind === 'lettering' && s.across <= STROKE)
    return {
      method: 'fill',
      margin: 1,
      feather: 0,
      strength: 1,
      reach: 72,
      portions: 1,
      reason: `Strokes of ${px(s.across)}: covered tightly with a hard edge, and filled in short pieces.`,
    };
  const thin = s.across <= 2 * THIN_DEPTH;
  const most = kind === 'tear' ? TORN_MARGIN : 12;
  const margin = thin
    ? Math.max(1, Math.round(s.across * 0.15))
    : Math.min(most, Math.max(2, Math.round(s.across * 0.1)));
  let feather = thin ? 0 : Math.min(6, Math.max(1, Math.round(s.across * 0.03)));
  const reach = Math.round(Math.min(900, Math.max(72, s.across * 0.7)));
  const reasons: string[] = [];
  const near = Number.isFinite(s.edge) && s.edge < Math.max(10, 0.3 * s.across);
  if (thin) reasons.push(`${px(Math.max(1, s.across))} across: hard edge, so that nothing of it is left`);
  else if (s.crossed) {
    feather = Math.min(feather, 1);
    reasons.push(`${px(s.across)} across, a strong edge runs through: crisp cover`);
  } else if (near) {
    feather = Math.min(feather, 2);
    reasons.push(`${px(s.across)} across, strong edge ${px(s.edge)} away: narrow soft edge, lest it smear`);
  } else if (s.texture < 3 && s.uneven < 8) {
    feather = Math.max(feather, 3);
    reasons.push(`${px(s.across)} across on even ground: ${feather} px soft edge`);
  } else reasons.push(`${px(s.across)} across, detail around: donors within ${px(reach)}`);
  const portions = s.across > LARGE ? Math.min(6, Math.ceil(s.across / LARGE)) : 1;
  if (portions > 1) reasons.push(`large: best in ${portions} portions`);
  const cover = { margin, feather, strength: 1, reach, portions };
  // Its margin is for those who fill it all the same.
  if (kindFacts(kind).lifted) return { ...cover, method: 'lift', reason: `${px(s.across)} across${LET_THROUGH}` };
  return { ...cover, method: 'fill', reason: `${reasons.join('; ')}.` };
}
