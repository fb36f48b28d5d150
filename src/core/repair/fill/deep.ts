import { nearCover } from '../../mask/near.ts';
import { THIN_DEPTH } from './settings.ts';

/** Reach in px from a deep place to what belongs to it: as far as from it to the corner of a box. */
const BELONGS = Math.ceil(THIN_DEPTH * Math.SQRT2) + 1;

/** Thin pieces beside a deep place of no more than so many pixels are corners of it, not strands that lead there. */
const CORNER = 120;

/**
 * 1 on places of a cover that are deeper than a limit, and on what belongs to them.
 * @param depths distance in px of each covered pixel to the outside
 */
export function deepParts(cover: Uint8Array, depths: Float32Array, width: number, limit: number): Uint8Array {
  const cores = new Uint8Array(cover.length);
  const pixels: number[] = [];
  for (let i = 0; i < cores.length; i++) {
    if (depths[i] <= limit) continue;
    cores[i] = 1;
    pixels.push(i);
  }
  if (!pixels.length) return cores;
  const deep = nearCover(cores, width, cover.length / width, pixels, BELONGS, 0);
  for (let i = 0; i < deep.length; i++) if (!cover[i]) deep[i] = 0;
  takeCorners(cover, deep, width);
  return deep;
}

/** Adds the corners of deep places to them. */
function takeCorners(cover: Uint8Array, deep: Uint8Array, width: number): void {
  const height = cover.length / width;
  const seen = new Uint8Array(cover.length);
  for (let start = 0; start < cover.length; start++) {
    if (!cover[start] || deep[start] || seen[start]) continue;
    const piece = [start];
    seen[start] = 1;
    let beside = false;
    for (let n = 0; n < piece.length; n++) {
      const x = piece[n] % width;
      const y = (piece[n] - x) / width;
      for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++) {
        for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
          const j = v * width + u;
          if (deep[j]) beside = true;
          if (!cover[j] || deep[j] || seen[j]) continue;
          seen[j] = 1;
          piece.push(j);
        }
      }
    }
    if (beside && piece.length <= CORNER) for (const i of piece) deep[i] = 1;
  }
}
