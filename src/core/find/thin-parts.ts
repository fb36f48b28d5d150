import { grownBySquare } from '../mask/groups.ts';
import type { Box } from '../raster/raster.ts';
import { quantile } from '../raster/luma.ts';
import { modelsOf, unlikely } from './colour-models.ts';
import { groupsOf, type Group, type SmallPicture } from './finders/blobs.ts';

/** px of what is none of a subject from which its colours are learnt. */
const SAMPLED = 4000;
/** Share of what is none of it that may look as unlike it as a thin part does. */
const RARE = 0.01;
/** px up to which a part may be apart from the rest: fine rods break up, and a wire that is to go may run between. */
const APART = 8;
/** Share of the largest part from which on another is no thin one. */
const LARGE = 0.04;
/** How much more unlike a part has to be than rare places are, as ground lighter or darker there is not; logarithm of how likely. */
const STARKER = 4;
/** px from which on a part is longer than grain. */
const LONG = 12;
/** px of the subject's own soft rim. */
const RIM = 3;
/** Share of the subject up to which all that hangs on it is taken for a part of it. */
const PART = 0.25;

/** Sets the px of a group in a plane. */
function lay({ box, mask }: Group, plane: Uint8Array, width: number): void {
  for (let v = 0, k = 0; v < box.height; v++)
    for (let u = 0; u < box.width; u++, k++) if (mask[k]) plane[(box.y + v) * width + box.x + u] = 1;
}

/** Whether any px of a group passes a test. */
function some({ box, mask }: Group, width: number, test: (i: number) => boolean): boolean {
  for (let v = 0, k = 0; v < box.height; v++)
    for (let u = 0; u < box.width; u++, k++) if (mask[k] && test((box.y + v) * width + box.x + u)) return true;
  return false;
}

/** The large parts of a mask: what is small and lies apart from them has to hang on one to count. */
function largeParts(mask: Uint8Array, known: Uint8Array, width: number, height: number): Uint8Array {
  const groups = groupsOf(mask, width, height);
  const out = new Uint8Array(mask.length);
  for (const group of groups)
    if (group.area > LARGE * groups[0].area || some(group, width, (i) => known[i] === 1)) lay(group, out, width);
  return out;
}

/**
 * A subject's mask with its thin parts: handles, rods, a vane. At the size at which it was decided they are less than a px wide.
 * What is coloured as nothing around the subject is and hangs on it is part of it, unless it runs out of the box around it, as a
 * wire behind it does.
 * @param decided 1 where the subject is
 * @param known 1 where it surely is, 2 where it surely is not
 * @param box all of it lies within, px of the small picture
 */
export function withThinParts(
  decided: Uint8Array,
  known: Uint8Array,
  { width, height, L, a, b }: SmallPicture,
  box: Box,
): Uint8Array {
  const mask = largeParts(decided, known, width, height);
  const outer: number[] = [];
  for (let i = 0; i < mask.length; i++) if (known[i] === 2 && !mask[i]) outer.push(i);
  if (outer.length < SAMPLED / 4) return mask;
  const step = Math.max(1, outer.length / SAMPLED);
  const sample = Array.from({ length: Math.floor(outer.length / step) }, (_, n) => outer[Math.floor(n * step)]);
  const models = modelsOf(sample, [L, a, b]);
  const usual = quantile(
    Float32Array.from(sample, (i) => unlikely(models, L[i], a[i], b[i])),
    1 - RARE,
  );
  const limit = usual + STARKER;
  const area = mask.reduce((n, v) => n + v, 0);
  const unlike = Float32Array.from(mask, (v, i) =>
    v || known[i] === 2 ? -Infinity : decided[i] ? Infinity : unlikely(models, L[i], a[i], b[i]),
  );
  // The soft rim of the subject itself would tie all that touches it together.
  const rim = grownBySquare(mask, width, height, RIM);
  const apart = Uint8Array.from(unlike, (v, i) => (v > limit && !rim[i] ? 1 : 0));
  const near = grownBySquare(mask, width, height, RIM + APART);
  const leaves = (i: number) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return x <= box.x + 1 || y <= box.y + 1 || x >= box.x + box.width - 2 || y >= box.y + box.height - 2;
  };
  const parts = new Uint8Array(mask.length);
  for (const group of groupsOf(grownBySquare(apart, width, height, 1), width, height)) {
    if (Math.max(group.box.width, group.box.height) < LONG || group.area > PART * area) continue;
    if (!some(group, width, (i) => near[i] === 1)) continue;
    // What runs on to the side of the box is none of the subject.
    if (!some(group, width, (i) => apart[i] === 1 && leaves(i))) lay(group, parts, width);
  }
  // Within the rim a part goes on to the subject, though grain or light break it there.
  const reached = grownBySquare(
    Uint8Array.from(parts, (v, i) => (v && apart[i] ? 1 : 0)),
    width,
    height,
    RIM,
  );
  const out = Uint8Array.from(mask);
  for (let i = 0; i < out.length; i++)
    if (known[i] !== 2 && ((parts[i] && apart[i]) || (rim[i] && reached[i]))) out[i] = 1;
  return out;
}
