import { distanceTransform } from '../../../mask/distance.ts';
import { TONE_LANES, toneOfLevel } from '../grounds/ring.ts';
import type { Level } from './levels.ts';

/** px, at the level that is decided at, over which a place's tone and detail are taken, and how wide the surroundings are. */
const REACH = 9;
/** How many places of the surroundings are looked at. */
const PLACES = 240;
/** Difference in tone and detail from which on a place is unlike all that lies around; 8-bit scale. */
const UNLIKE = 12;
/** How many times what is covered must be left to choose from. */
const ENOUGH = 3;

/**
 * Where donors may be taken of a ground that touches the cover: what is allowed, without places whose tone and detail are found nowhere
 * around it. An even slope far off would lie well in a wall, since even things have no edges that could be cut; but no slope is
 * there.
 * @returns null where too little would be left
 * Source: own measurement.
 */
export function likeAround(level: Level): Uint8Array | null {
  const { width, height, cover, covered, known, allowed } = level;
  const tones = toneOfLevel(level, REACH);
  const away = distanceTransform(cover, width, height, 'inside');
  const ring: number[] = [];
  for (let i = 0; i < away.length; i++) if (known[i] && away[i] > 0 && away[i] <= REACH) ring.push(i * TONE_LANES);
  const step = Math.max(1, Math.floor(ring.length / PLACES));
  const places = ring.filter((_, n) => n % step === 0);
  const most = UNLIKE * UNLIKE;
  const out = allowed.slice();
  let left = 0;
  for (let i = 0, o = 0; i < out.length; i++, o += TONE_LANES) {
    if (!out[i]) continue;
    out[i] = 0;
    for (let k = 0; k < places.length && !out[i]; k++) {
      let sum = 0;
      for (let c = 0; c < TONE_LANES; c++) sum += (tones[o + c] - tones[places[k] + c]) ** 2;
      if (sum <= most) out[i] = 1;
    }
    left += out[i];
  }
  return left >= ENOUGH * covered ? out : null;
}
