import type { Box } from '../../raster/raster.ts';

/** A side of what is known, beside which a cover begins: coordinates along it and away from it. */
export interface Side {
  /** length along it, px; how far the picture reaches away from it */
  along: number;
  away: number;
  /** the place `s` along it and `n` away from it, negative n in the cover */
  at(s: number, n: number): { x: number; y: number };
  of(x: number, y: number): { s: number; n: number };
}

/** Sides of a cover's box at which something is known, as sides of that. */
export function sidesOf(
  { x, y, width: across, height: high }: Box,
  width: number,
  height: number,
  known: Uint8Array,
): Side[] {
  const share = (n: number, at: (k: number) => number) => {
    let count = 0;
    for (let k = 0; k < n; k++) count += known[at(k)];
    return count / n;
  };
  const out: Side[] = [];
  const [right, bottom] = [x + across, y + high];
  const isKnown = {
    left: x > 0 && share(high, (k) => (y + k) * width + x - 1) > 0.5,
    right: right < width && share(high, (k) => (y + k) * width + right) > 0.5,
    above: y > 0 && share(across, (k) => (y - 1) * width + x + k) > 0.5,
    below: bottom < height && share(across, (k) => bottom * width + x + k) > 0.5,
  };
  // A cover between two known sides is no extension of either.
  if (isKnown.left && !isKnown.right)
    out.push({
      along: height,
      away: x,
      at: (s, n) => ({ x: x - n, y: s }),
      of: (u, v) => ({ s: v, n: x - u }),
    });
  if (isKnown.right && !isKnown.left)
    out.push({
      along: height,
      away: width - right,
      at: (s, n) => ({ x: right + n, y: s }),
      of: (u, v) => ({ s: v, n: u - right }),
    });
  if (isKnown.above && !isKnown.below)
    out.push({
      along: width,
      away: y,
      at: (s, n) => ({ x: s, y: y - n }),
      of: (u, v) => ({ s: u, n: y - v }),
    });
  if (isKnown.below && !isKnown.above)
    out.push({
      along: width,
      away: height - bottom,
      at: (s, n) => ({ x: s, y: bottom + n }),
      of: (u, v) => ({ s: u, n: v - bottom }),
    });
  return out;
}
