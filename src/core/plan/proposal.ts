import { kindFacts, type FaultKind } from '../faults/kinds.ts';
import { boundsOf } from '../mask/mask.ts';
import { boundsOfShapes, rasterise, type Shape } from '../mask/shapes.ts';
import type { Brush } from '../mask/strokes.ts';
import { crop, isEmpty, type Raster } from '../raster/raster.ts';
import { searchReach } from '../repair/hand/search-reach.ts';
import { surroundingsOf, type Surroundings } from './advice.ts';
import { measureFault } from './cover.ts';
import { adviseDonors, type DonorAdvice } from '../repair/hand/donor-search.ts';
import { findTwin, type Twin } from './twin.ts';

export type ProposedMethod = 'fill' | 'copy' | 'blend' | 'patch' | 'transplant';
/** Who leads: the editor chooses donors, or the software searches them. */
export type DonorPolicy = 'choose' | 'search';

/** How a place is best treated by hand, and why. */
export interface Proposal {
  method: ProposedMethod;
  brush: Pick<Brush, 'size' | 'hardness' | 'flow'>;
  /** how many passes bring full cover */
  passes: number;
  /** px of a soft edge of an area */
  feather: number;
  strength: number;
  reason: string;
  /** the three best places to take pixels from */
  donors: DonorAdvice[];
  /** a place that looks the same, upright or mirrored */
  twin: Twin | null;
}

/** px across up to which something is a spot. */
const SPOT = 60;
/** px across from which an area is rather moved in one piece than painted. */
const LARGE = 140;
/** Fine detail in levels from which on grass, fur or foliage is assumed. */
const BUSY = 9;

const px = (v: number) => `${Math.round(v)} px`;

/** The method for a place, and why. */
function methodFor(
  s: Surroundings,
  {
    line,
    near,
    twin,
    donorPolicy,
  }: { line: boolean | undefined; near: boolean; twin: boolean; donorPolicy: DonorPolicy },
): [ProposedMethod, string] {
  if (twin && s.across > SPOT / 2)
    return ['transplant', 'a twin of this place stands elsewhere: lift it, solve its pose, reveal what is needed'];
  if (s.crossed) return ['copy', 'a strong edge runs through it: copy, with the donor moved along the edge'];
  if (near) return ['copy', `a strong edge ${px(s.edge)} away would smear in: copy, with a donor on the same side`];
  const plain = s.texture < 4;
  if (s.across > LARGE) {
    if (plain) return ['patch', 'large and plain around: patch from a clean area'];
    return donorPolicy === 'choose'
      ? ['patch', 'large, and donors are chosen by hand in this job: patch from an area of the same kind']
      : ['fill', 'large, with detail around: fill'];
  }
  if (line || plain) return ['blend', 'even around: blend takes texture from a donor and tone from here'];
  return donorPolicy === 'choose'
    ? ['copy', 'detail around, and donors are chosen by hand in this job: copy from close by']
    : ['fill', 'alike on all sides: fill finds donors by itself'];
}

/**
 * Chooses method and brush from what was measured around a fault. All rules are common practice: a brush of 1.2 to 1.5 times a
 * spot; 80 % hard on plain ground, 60 to 70 % where tone varies, harder at an edge that must stay crisp; flow about 70 %,
 * in fine texture 20 % in passes; 60 to 80 % strength for lines on smooth tone; copy beside and across strong edges, blend on
 * even ground, patch or fill for large areas.
 */
export function proposeByHand(
  kind: FaultKind,
  s: Surroundings,
  { donorPolicy = 'search', twin = false }: { donorPolicy?: DonorPolicy; twin?: boolean } = {},
): Omit<Proposal, 'donors' | 'twin'> {
  const near = Number.isFinite(s.edge) && s.edge < Math.max(12, 0.35 * s.across);
  // Beside an edge that must stay crisp many soft passes would blur it.
  const busy = s.texture >= BUSY && !s.crossed && !near;
  const line = kindFacts(kind).line;
  const size = Math.max(3, Math.round(Math.min(400, s.across * (s.across <= SPOT ? 1.35 : 0.6))));
  const hardness = s.crossed || near ? 0.85 : s.uneven < 8 ? 0.8 : 0.65;
  const flow = busy ? 0.2 : 0.7;
  const passes = Math.ceil(Math.log(0.05) / Math.log(1 - flow));
  const feather = s.crossed ? 1 : Math.min(24, Math.max(2, Math.round(s.across * 0.06)));
  const [method, why] = methodFor(s, { line, near, twin, donorPolicy });
  // Of a line in skin a trace looks truer than none.
  const strength = method === 'blend' && line && s.texture < 2.5 && s.uneven < 10 && s.across > 6 ? 0.7 : 1;
  const parts = [`${px(s.across)} across, ${why}`];
  if (busy) parts.push(`fine detail of ${s.texture.toFixed(0)} levels: 20 % flow in ${passes} passes`);
  if (strength < 1) parts.push('70 % strength, since smooth tone with no trace looks false');
  return { method, brush: { size, hardness, flow }, passes, feather, strength, reason: `${parts.join('; ')}.` };
}

/** Measures a place of a picture and proposes how to treat it by hand. */
export function propose(
  picture: Raster,
  kind: FaultKind,
  shapes: readonly Shape[],
  avoid: readonly Shape[],
  donorPolicy: DonorPolicy = 'search',
): Proposal {
  const box = boundsOfShapes(shapes, picture.width, picture.height);
  const across = measureFault(shapes, picture).width;
  const twin = isEmpty(box) ? null : findTwin(picture, shapes, avoid);
  const settings = {
    ...proposeByHand(kind, surroundingsOf(picture, shapes, across), { donorPolicy, twin: twin !== null }),
    twin,
  };
  if (isEmpty(box)) return { ...settings, donors: [] };
  const mask = rasterise(shapes, box);
  const tight = boundsOf(mask);
  if (isEmpty(tight)) return { ...settings, donors: [] };
  const beneath = { width: picture.width, height: picture.height, read: (b: typeof box) => crop(picture, b) };
  return { ...settings, donors: adviseDonors(beneath, mask, avoid, { reach: searchReach(box), most: 3 }) };
}
