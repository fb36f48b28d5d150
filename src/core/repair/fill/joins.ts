import { withKernels } from '../../kernels/memory.ts';

const DIRECTIONS = 32;
/** Farthest in px that an edge is joined across. */
const REACH = 24;
/** How far a pixel leans towards what lies on both sides, and by which share of the mean cost that is trusted. */
const LEAN = { most: 0.7, from: 0.3, span: 0.22 };

const TURNS = Float32Array.from({ length: 2 * DIRECTIONS }, (_, i) => {
  const angle = (Math.PI * (i >> 1)) / DIRECTIONS;
  return i & 1 ? Math.sin(angle) : Math.cos(angle);
});

/** What edges met on both sides of a strand say about its pixels. */
export interface Joins {
  /** how far each covered pixel leans towards its value, 0 to 1 */
  leans: Float32Array;
  /** four floats a covered pixel */
  values: Float32Array;
}

/**
 * Joins edges that a thin cover cuts, without knowing its centre line: of 32 directions through each covered pixel the one in which
 * both sides agree best, judged together with its covered neighbours. Only a direction that agrees far better than others counts.
 *
 * @param image width × height pixels of four floats; what stands at covered ones is not looked at
 * @param layers how many px deep each covered pixel lies, by squares, from 1
 * @param covered covered pixels as y × width + x
 * Source: own measurement; in the spirit of directional interpolation across gaps (edge-directed deinterlacing).
 */
export function joinSides(
  image: Float32Array,
  width: number,
  height: number,
  layers: Uint16Array,
  covered: Int32Array,
): Joins {
  return withKernels((kernels) => {
    const count = covered.length;
    const imageAt = kernels.put(image);
    const depths = new Uint8Array(width * height);
    const index = new Int32Array(width * height).fill(-1);
    const places = new Int32Array(2 * count);
    covered.forEach((i, n) => {
      index[i] = n;
      depths[i] = Math.min(255, layers[n]);
      places[2 * n] = i % width;
      places[2 * n + 1] = Math.floor(i / width);
    });
    for (let x = 0; x < width; x++) depths[x] = depths[(height - 1) * width + x] = 255;
    for (let y = 0; y < height; y++) depths[y * width] = depths[y * width + width - 1] = 255;
    const depthsAt = kernels.put(depths);
    const placesAt = kernels.put(places);
    const indexAt = kernels.put(index);
    const turnsAt = kernels.put(TURNS);
    const costsAt = kernels.reserve(4 * DIRECTIONS * count);
    const meansAt = kernels.reserve(4 * DIRECTIONS * count);
    const leansAt = kernels.reserve(4 * count);
    const valuesAt = kernels.reserve(16 * count);
    const { run } = kernels;
    run.joinCosts(imageAt, depthsAt, width, height, placesAt, count, turnsAt, REACH, costsAt);
    run.joinMeans(width, height, placesAt, count, indexAt, costsAt, meansAt);
    run.joinBest(placesAt, count, turnsAt, meansAt, LEAN.most, LEAN.from, LEAN.span, leansAt, valuesAt);
    return { leans: kernels.f32(leansAt, count).slice(), values: kernels.f32(valuesAt, 4 * count).slice() };
  });
}
