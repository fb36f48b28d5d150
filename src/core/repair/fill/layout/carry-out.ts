import { carryUp, piecesOf } from './carry.ts';
import { Decider, levelWhereAcross, type Layout } from './decide.ts';
import { decideEven } from './even.ts';
import { joinSeams, type Joined } from './join.ts';
import type { Pieces } from './pieces.ts';
import type { Resolutions } from './prepare.ts';
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
export function carryOut({ levels, at }: Resolutions, layout: Layout, step: number): Carried {
  let pieces = piecesOf(levels[at], layout.labels, layout.moves);
  for (let l = at - 1; l >= 0; l--) pieces = carryUp(pieces, levels[l]);
  const shift = levelWhereAcross(levels, TONE_ACROSS);
  const surface = step === WITHIN_STEP ? surfaceOf(levels[shift]) : null;
  const tone = toneOf(pieces, levels[shift], shift, step, surface);
  return { pieces, tone, joined: joinSeams(pieces, levels[0], tone, step) };
}

/** One ground: woven where that can be done at full resolution, else laid out in large pieces, which keep their detail. */
export function fillGround(own: Resolutions, seed: number): Carried {
  if (levelWhereAcross(own.levels, WOVEN_ACROSS) === 0) return weave(own, seed);
  const [layout] = new Decider(own.levels, own.at, seed).decide();
  return carryOut(own, layout, WITHIN_STEP);
}

/** One ground woven from many places, at a resolution that does not take long. */
export function weave({ levels }: Resolutions, seed: number): Carried {
  const at = levelWhereAcross(levels, WOVEN_ACROSS);
  return carryOut({ levels, at }, decideEven(levels[at], at, seed), WITHIN_STEP);
}
