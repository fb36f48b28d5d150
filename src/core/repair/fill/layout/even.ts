import { distanceTransform } from '../../../mask/distance.ts';
import { boundsOf } from '../../../mask/mask.ts';
import { growWithin } from '../../../raster/raster.ts';
import { NoDonorsInReach } from '../no-donors.ts';
import { halve, type SearchLevel } from '../search-levels.ts';
import { searchDonors } from '../search.ts';
import type { Layout } from './decide.ts';
import type { Move } from './field.ts';
import { knownMean } from './features.ts';
import type { Level } from './levels.ts';

/** Half the patch side in px, and rounds of completion at the coarsest and finest level. */
const RADIUS = 4;
const ROUNDS: [number, number] = [10, 4];

/** Colours of a level with a texture measure in the fourth lane, as the search compares them. */
function searchPixels({ width, height, pixels, known }: Level): Uint8Array {
  const n = width * height;
  const out = pixels.slice();
  const slope = new Float32Array(n);
  const both = new Float32Array(n);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      if (x + 1 >= width || y + 1 >= height || !known[i] || !known[i + 1] || !known[i + width]) continue;
      slope[i] =
        Math.abs(pixels[4 * i + 1] - pixels[4 * i + 5]) + Math.abs(pixels[4 * i + 1] - pixels[4 * (i + width) + 1]);
      both[i] = 1;
    }
  }
  const mean = knownMean(slope, both, width, height, 2);
  for (let i = 0; i < n; i++) out[4 * i + 3] = Math.min(255, 3 * mean[i]);
  return out;
}

/**
 * The layout of a cover within one ground: completed patch by patch from the coarsest resolution on, so that its texture is woven
 * from many places. What belongs to other grounds counts as unknown.
 *
 * @throws NoDonorsInReach when no whole patch may be taken
 */
export function decideEven(level: Level, at: number, seed: number, onProgress?: (done: number) => void): Layout {
  const { width, height, known, allowed } = level;
  // Foreign places beside the cover are completed along with it: they must not be compared.
  const beside = 2 * RADIUS + 1;
  const bounds = boundsOf({ x: 0, y: 0, width, height, data: level.cover });
  const near = growWithin(bounds, beside, width, height);
  const toCover = distanceTransform(level.cover, width, height, 'inside', near);
  const cover = new Uint8Array(width * height);
  for (let y = near.y; y < near.y + near.height; y++) {
    for (let x = near.x; x < near.x + near.width; x++) {
      const i = y * width + x;
      if (level.cover[i] || (!known[i] && toCover[i] <= beside)) cover[i] = 1;
    }
  }
  const inner = growWithin(boundsOf({ x: 0, y: 0, width, height, data: cover }), 1, width, height);
  const depth = distanceTransform(cover, width, height, 'outside', inner).reduce((a, b) => Math.max(a, b), 0);
  const pixels = searchPixels(level);
  const levels: SearchLevel[] = [
    { width, height, target: pixels.slice(), cover, donors: { width, height, pixels, allowed: allowed.slice() } },
  ];
  const wanted = Math.max(0, Math.ceil(Math.log2(depth / (RADIUS * 0.8))));
  for (let l = 0; l < wanted; l++) {
    const next = halve(levels[l]);
    if (Math.min(next.width, next.height) < 4 * RADIUS + 2) break;
    levels.push(next);
  }
  const search = (radius: number) => searchDonors(levels, { seed, radius, rounds: ROUNDS, falloff: 1.15, onProgress });
  let found;
  try {
    found = search(RADIUS);
  } catch (error) {
    if (!(error instanceof NoDonorsInReach)) throw error;
    found = search(2);
  }
  const labels = new Int32Array(width * height).fill(-1);
  const moves: Move[] = [];
  const byName = new Map<number, number>();
  found.pixels.forEach((p, n) => {
    if (!level.cover[p]) return;
    const x = found.donors[2 * n] - (p % width);
    const y = found.donors[2 * n + 1] - Math.floor(p / width);
    const name = (y + height) * 4 * width + x + width;
    let label = byName.get(name);
    if (label === undefined) byName.set(name, (label = moves.push({ x, y }) - 1));
    labels[p] = label;
  });
  return { by: 'even', level: at, labels, moves, energy: 0, detail: 0 };
}
