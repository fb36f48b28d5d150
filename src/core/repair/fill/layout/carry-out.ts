import { carryUp, piecesOf } from './carry.ts';
import { Decider, levelWhereAcross, type Layout } from './decide.ts';
import { decideEven } from './even.ts';
import type { Standing } from './expansion.ts';
import { joinSeams, type Joined } from './join.ts';
import type { Pieces } from './pieces.ts';
import type { Level } from './levels.ts';
import { windowAlone } from './mirrored.ts';
import type { Resolutions } from './prepare.ts';
import type { Softness } from './soften.ts';
import { edgeWidthsOf } from './edge-widths.ts';
import { surfaceOf } from './surface.ts';
import { toneOf, WITHIN_STEP, type Tone } from './tone.ts';

/** Size of the cover (square root of its area, px) at the level where tone is solved. */
const TONE_ACROSS = 155;
/** The same where one ground is woven from many places, which takes finer detail. */
const WOVEN_ACROSS = 140;

/** A layout carried out to the finest level, with its corrections of tone. */
export interface Carried {
  pieces: Pieces;
  tone: Tone;
  joined: Joined;
}

/** Carries a layout out: to the finest level, with its tone. `step`: step in tone that counts as a difference to be evened. */
export function carryOut({ levels, at, level }: Resolutions, layout: Layout, step: number): Carried {
  let pieces = piecesOf(levels[at], layout.labels, layout.moves);
  for (let l = at - 1; l >= 0; l--) pieces = carryUp(pieces, levels[l], level);
  const shift = levelWhereAcross(levels, TONE_ACROSS);
  const surface = step === WITHIN_STEP ? surfaceOf(levels[shift]) : null;
  const tone = toneOf(pieces, levels[shift], shift, step, surface, softAt(levels, shift), level);
  return { pieces, tone, joined: joinSeams(pieces, levels[0], tone, step) };
}

/** Finer levels than that of tone that softness is measured on: so many parts of its px. */
const FINER = 2;
/** Edges that are less wide, in px of the level of tone and of the picture, count as sharp. */
const SHARP = 0.7;
const SHARP_PX = 8;

/** How wide edges are at a place of the level of tone, in its px; 0 where they are sharp. */
function softAt(levels: readonly Level[], shift: number): Softness {
  const at = Math.max(0, shift - FINER);
  const size = 1 << (shift - at);
  const softness = edgeWidthsOf(windowAlone(levels[at]));
  const least = Math.max(SHARP, SHARP_PX / (1 << shift));
  return (x, y) => {
    const wide = softness.at((x + 0.5) * size, (y + 0.5) * size) / size;
    return wide < least ? 0 : wide;
  };
}

/** One ground: woven where that can be done at full resolution, else laid out in large pieces, which keep their detail. */
export function fillGround(own: Resolutions, seed: number, standing?: Standing): Carried {
  if (levelWhereAcross(own.levels, WOVEN_ACROSS) === 0) return weave(own, seed);
  const [layout] = new Decider(own.levels, own.at, seed, false, standing).decide();
  return carryOut(own, layout, WITHIN_STEP);
}

/** One ground woven from many places, at a resolution that does not take long. */
export function weave({ levels }: Resolutions, seed: number): Carried {
  const at = levelWhereAcross(levels, WOVEN_ACROSS);
  return carryOut({ levels, at }, decideEven(levels[at], at, seed), WITHIN_STEP);
}
