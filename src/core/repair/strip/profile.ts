import type { Point } from '../../mask/shapes.ts';

/**
 * Profiles of mouldings: how far each place from the upper edge (0) to the lower (1) stands out, in shares of the height. Made up for
 * this; a free one is a list of such places too.
 */
export const PROFILES = {
  'rounded board': [
    [0, 0],
    [0.03, 0.07],
    [0.08, 0.11],
    [0.15, 0.13],
    [1, 0.13],
  ],
  'two steps': [
    [0, 0],
    [0.02, 0.05],
    [0.22, 0.05],
    [0.25, 0.1],
    [0.5, 0.1],
    [0.53, 0.16],
    [1, 0.16],
  ],
  'swept board': [
    [0, 0],
    [0.03, 0.05],
    [0.09, 0.06],
    [0.12, 0.03],
    [0.2, 0.04],
    [0.3, 0.08],
    [0.38, 0.14],
    [0.44, 0.17],
    [0.5, 0.17],
    [0.53, 0.14],
    [0.57, 0.16],
    [1, 0.16],
  ],
} as const satisfies Record<string, ReadonlyArray<readonly [number, number]>>;
export type ProfileName = keyof typeof PROFILES;

/** Places along a profile at which its light is worked out. */
export const STEPS = 512;
/** Direction that light comes from, across the strip: from above and from before. Common practice: rooms are lit from above. */
const ABOVE = 0.62;
const BEFORE = Math.sqrt(1 - ABOVE ** 2);
/** Light that reaches what is turned away, and what lies in the shadow of what stands out above it. */
const AMBIENT = 0.5;
const SHADED = 0.72;
/** Shares of the height over which edges of light are soft: a moulding is painted, not cut in glass. */
const SOFT = 0.012;

/** How far a profile stands out at a place, between its points. */
export function depthAt(profile: readonly Point[], t: number): number {
  let k = 1;
  while (k < profile.length - 1 && profile[k][0] < t) k++;
  const [[t0, d0], [t1, d1]] = [profile[k - 1], profile[k]];
  return t1 > t0 ? d0 + (d1 - d0) * Math.min(1, Math.max(0, (t - t0) / (t1 - t0))) : d1;
}

/**
 * How light each place of a profile is, from the upper edge to the lower; 1 is what faces forward. Lambert's law with light from above,
 * and the shadow of what stands out over what lies below it.
 * @param strength 1: as lit from above; 0: no relief
 */
export function shadingOf(profile: readonly Point[], strength: number): Float64Array {
  const depths = Float64Array.from({ length: STEPS + 1 }, (_, k) => depthAt(profile, k / STEPS));
  const out = new Float64Array(STEPS);
  // The height that light just passes over: it falls as it goes down and in.
  let over = -Infinity;
  for (let k = 0; k < STEPS; k++) {
    const slope = (depths[k + 1] - depths[k]) * STEPS;
    const length = Math.hypot(1, slope);
    // What gets deeper downwards looks up and is lit from above.
    const facing = Math.max(0, (BEFORE + ABOVE * slope) / length);
    const lit = AMBIENT + (1 - AMBIENT) * (facing / BEFORE);
    over = Math.max(over - BEFORE / ABOVE / STEPS, depths[k]);
    const shade = over > depths[k] + 1e-3 ? SHADED : 1;
    out[k] = 1 + strength * (Math.min(1.7, lit) * shade - 1);
  }
  const reach = Math.ceil(2 * SOFT * STEPS);
  return out.map((_, k) => {
    let [sum, weight] = [0, 0];
    for (let j = Math.max(0, k - reach); j <= Math.min(STEPS - 1, k + reach); j++) {
      const w = Math.exp(-0.5 * ((j - k) / (SOFT * STEPS)) ** 2);
      sum += w * out[j];
      weight += w;
    }
    return sum / weight;
  });
}
