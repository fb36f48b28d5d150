import { Kernels } from '../../kernels/memory.ts';

const DIRECTIONS = 32;
/** Farthest in px that an edge is joined across. */
const REACH = 24;
/** How far a pixel leans towards what lies on both sides, and by which share of the mean cost that is trusted. */
const LEAN = { most: 0.6, from: 0.22, span: 0.18 };

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
 * @param covered covered pixels as y × width + x
 * Source: own measurement; in the spirit of directional interpolation across gaps (edge-directed deinterlacing).
 */
export function joinSides(
  image: Float32Array,
  width: number,
  height: number,
  cover: Uint8Array,
  covered: Int32Array,
): Joins {
  const kernels = new Kernels();
  const count = covered.length;
  const imageAt = kernels.put(image);
  const coverAt = kernels.put(cover);
  const index = new Int32Array(width * height).fill(-1);
  const places = new Int32Array(2 * count);
  covered.forEach((i, n) => {
    index[i] = n;
    places[2 * n] = i % width;
    places[2 * n + 1] = Math.floor(i / width);
  });
  const placesAt = kernels.put(places);
  const indexAt = kernels.put(index);
  const turnsAt = kernels.put(TURNS);
  const costsAt = kernels.reserve(4 * DIRECTIONS * count);
  const meansAt = kernels.reserve(4 * DIRECTIONS * count);
  const leansAt = kernels.reserve(4 * count);
  const valuesAt = kernels.reserve(16 * count);
  const { run } = kernels;
  run.joinCosts(imageAt, coverAt, width, height, placesAt, count, turnsAt, REACH, costsAt);
  run.joinMeans(width, height, placesAt, count, indexAt, costsAt, meansAt);
  run.joinBest(placesAt, count, turnsAt, meansAt, LEAN.most, LEAN.from, LEAN.span, leansAt, valuesAt);
  return { leans: kernels.f32(leansAt, count).slice(), values: kernels.f32(valuesAt, 4 * count).slice() };
}
