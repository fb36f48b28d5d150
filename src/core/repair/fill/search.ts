import { Kernels } from '../../kernels/memory.ts';
import { distanceTransform } from '../../mask/distance.ts';
import { boundsOf } from '../../mask/mask.ts';
import { growWithin } from '../../raster/raster.ts';
import { NoDonorsInReach } from './no-donors.ts';
import { allowedCentres, firstGuess, type SearchLevel } from './search-levels.ts';

/** How a search goes about it. */
export interface SearchSettings {
  seed: number;
  /** half the patch side in px: 2 to 6 */
  radius: number;
  /** completion rounds at the coarsest and at the finest level; between them in proportion */
  rounds: [number, number];
  /** confidence lost with each px into the cover; 1 = none */
  falloff: number;
  onProgress?: (done: number) => void;
}

/** Where the pixels of the cover come from. */
export interface Labels {
  /** covered pixels as y × width + x */
  pixels: Int32Array;
  /** x and y in the donor image for each of them */
  donors: Int32Array;
}

function percentile(values: Int32Array, share: number): number {
  const sorted = Int32Array.from(values).sort();
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))];
}

/** A level prepared in the kernels' memory. */
interface PreparedLevel {
  level: SearchLevel;
  ok: Uint8Array;
  centres: Int32Array;
  index: Int32Array;
  pixels: Int32Array;
  confidence: Float32Array;
}

function prepareLevel(level: SearchLevel, r: number, falloff: number): PreparedLevel {
  const { width, height, cover } = level;
  const index = new Int32Array(width * height).fill(-1);
  const centres: number[] = [];
  const pixels: number[] = [];
  // Patches that touch the cover: dilate by the patch's half side, rows then columns.
  const near = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      if (!cover[y * width + x]) continue;
      pixels.push(x, y);
      for (let u = Math.max(0, x - r); u <= Math.min(width - 1, x + r); u++) near[y * width + u] = 1;
    }
  }
  const bounds = growWithin(boundsOf({ x: 0, y: 0, width, height, data: cover }), 1, width, height);
  const depth = distanceTransform(cover, width, height, 'outside', bounds);
  const confidence: number[] = [];
  for (let y = r; y < height - r; y++) {
    for (let x = r; x < width - r; x++) {
      let touches = false;
      for (let v = y - r; v <= y + r && !touches; v++) touches = near[v * width + x] === 1;
      if (!touches) continue;
      index[y * width + x] = centres.length / 2;
      centres.push(x, y);
      confidence.push(Math.pow(falloff, -Math.min(60, depth[y * width + x])));
    }
  }
  return {
    level,
    ok: allowedCentres(level.donors.allowed, level.donors.width, level.donors.height, r),
    centres: Int32Array.from(centres),
    index,
    pixels: Int32Array.from(pixels),
    confidence: Float32Array.from(confidence),
  };
}

function donorList(prepared: PreparedLevel): Int32Array {
  const { width } = prepared.level.donors;
  const out: number[] = [];
  for (let i = 0; i < prepared.ok.length; i++) if (prepared.ok[i]) out.push(i % width, Math.floor(i / width));
  return Int32Array.from(out);
}

/**
 * Completes the cover by patches found elsewhere, coarse to fine, and says for every covered pixel of the finest level
 * which donor pixel stands there. `levels[0]` is the finest. Deterministic for a seed.
 *
 * Source: randomised nearest-neighbour search after Barnes et al., "PatchMatch", 2009; completion rounds after Wexler,
 * Shechtman & Irani, "Space-Time Completion of Video", 2007; texture as a fourth channel after Newson et al., "Video
 * Inpainting of Complex Scenes", 2014.
 * @throws Error when no patch of the wanted size lies wholly on allowed pixels.
 */
export function searchDonors(levels: SearchLevel[], settings: SearchSettings): Labels {
  const { radius: r, falloff, rounds } = settings;
  const layouts: PreparedLevel[] = [];
  const preparedAt = (l: number) => (layouts[l] ??= prepareLevel(levels[l], r, falloff));
  if (preparedAt(0).ok.indexOf(1) < 0) throw new NoDonorsInReach();
  let top = levels.length - 1;
  while (top > 0) {
    const candidate = preparedAt(top);
    let donors = 0;
    for (const v of candidate.ok) donors += v;
    if (donors >= 30 && candidate.centres.length > 0) break;
    top--;
  }
  firstGuess(levels[top]);
  let work = 0;
  let done = 0;
  for (let l = 0; l <= top; l++) work += levels[l].width * levels[l].height;
  let matches: Int32Array | undefined;
  for (let l = top; l >= 0; l--) {
    const prepared = preparedAt(l);
    const share = top === 0 ? 1 : (top - l) / top;
    const count = Math.max(1, Math.round(rounds[0] + (rounds[1] - rounds[0]) * share));
    const size = levels[l].width * levels[l].height;
    const above = l < top ? { matches: matches!, prepared: preparedAt(l + 1) } : undefined;
    const result = completeLevel(prepared, settings, count, l, above, (f) =>
      settings.onProgress?.((done + f * size) / work),
    );
    matches = result.matches;
    done += size;
    if (l === 0) return { pixels: flat(prepared), donors: result.labels! };
  }
  throw new Error('no level');
}

function flat(prepared: PreparedLevel): Int32Array {
  const out = new Int32Array(prepared.pixels.length / 2);
  for (let i = 0; i < out.length; i++)
    out[i] = prepared.pixels[2 * i + 1] * prepared.level.width + prepared.pixels[2 * i];
  return out;
}

function completeLevel(
  prepared: PreparedLevel,
  settings: SearchSettings,
  rounds: number,
  l: number,
  above: { matches: Int32Array; prepared: PreparedLevel } | undefined,
  onProgress: (done: number) => void,
): { matches: Int32Array; labels?: Int32Array } {
  const { level } = prepared;
  const { donors } = level;
  const r = settings.radius;
  const count = prepared.centres.length / 2;
  const pixelCount = prepared.pixels.length / 2;
  const list = donorList(prepared);
  const k = new Kernels();
  const targetAt = k.reserve(level.target.length + 16);
  const donorsAt = k.reserve(donors.pixels.length + 16);
  const okAt = k.reserve(prepared.ok.length);
  const centresAt = k.reserve(count * 8);
  const indexAt = k.reserve(prepared.index.length * 4);
  const matchAt = k.reserve(count * 8);
  const distAt = k.reserve(count * 4);
  const pixelsAt = k.reserve(pixelCount * 8);
  const weightAt = k.reserve(count * 4);
  const labelAt = k.reserve(pixelCount * 8);
  const exhaustive = !above && count * (list.length / 2) < 8e6;
  const listAt = k.reserve(exhaustive ? list.length * 4 : 0);
  k.u8(targetAt, level.target.length).set(level.target);
  k.u8(donorsAt, donors.pixels.length).set(donors.pixels);
  k.u8(okAt, prepared.ok.length).set(prepared.ok);
  k.i32(centresAt, count * 2).set(prepared.centres);
  k.i32(indexAt, prepared.index.length).set(prepared.index);
  k.i32(pixelsAt, pixelCount * 2).set(prepared.pixels);
  if (exhaustive) k.i32(listAt, list.length).set(list);
  k.run.seed((settings.seed * 2654435761 + l * 40503 + 1) >>> 0);

  const match = k.i32(matchAt, count * 2);
  let state = (settings.seed ^ (l * 7919)) >>> 0 || 1;
  const random = () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
  for (let i = 0; i < count; i++) {
    const x = prepared.centres[2 * i];
    const y = prepared.centres[2 * i + 1];
    let sx = -1;
    let sy = -1;
    if (above) {
      const up = above.prepared.level;
      const cx = Math.min(up.width - 1 - r, Math.max(r, x >> 1));
      const cy = Math.min(up.height - 1 - r, Math.max(r, y >> 1));
      const j = above.prepared.index[cy * up.width + cx];
      if (j >= 0) {
        sx = 2 * above.matches[2 * j] + (x - 2 * cx);
        sy = 2 * above.matches[2 * j + 1] + (y - 2 * cy);
      }
    }
    const inside = sx >= r && sy >= r && sx < donors.width - r && sy < donors.height - r;
    if (!inside || !prepared.ok[sy * donors.width + sx]) {
      const pick = Math.floor(random() * (list.length / 2));
      sx = list[2 * pick];
      sy = list[2 * pick + 1];
    }
    match[2 * i] = sx;
    match[2 * i + 1] = sy;
  }

  const weigh = (distances: Int32Array) => {
    const weight = k.f32(weightAt, count);
    const sigma = Math.max(percentile(distances, 0.75), 1);
    for (let i = 0; i < count; i++) weight[i] = prepared.confidence[i] * Math.exp(-distances[i] / sigma) + 1e-20;
  };
  const votes = [
    targetAt,
    level.width,
    level.height,
    donorsAt,
    donors.width,
    r,
    pixelsAt,
    pixelCount,
    indexAt,
    matchAt,
  ];
  const measureAll = () =>
    k.run.measure(targetAt, level.width, donorsAt, donors.width, r, centresAt, count, matchAt, distAt);

  if (above) {
    // What the coarser level found is copied at this resolution before anything is compared.
    k.f32(weightAt, count).set(prepared.confidence);
    k.run.voteMean(...votes, weightAt);
  }
  for (let round = 0; round < rounds; round++) {
    measureAll();
    if (exhaustive) {
      k.run.searchAll(
        targetAt,
        level.width,
        donorsAt,
        donors.width,
        r,
        centresAt,
        count,
        listAt,
        list.length / 2,
        matchAt,
        distAt,
      );
    } else {
      const passes = round === 0 && !above ? 6 : 2;
      for (let pass = 0; pass < passes; pass++) {
        k.run.searchPass(
          targetAt,
          level.width,
          level.height,
          donorsAt,
          donors.width,
          donors.height,
          r,
          okAt,
          centresAt,
          count,
          indexAt,
          matchAt,
          distAt,
          (pass + round) & 1,
          above ? Math.max(8, Math.max(donors.width, donors.height) >> 3) : Math.max(donors.width, donors.height),
          0,
        );
      }
    }
    weigh(k.i32(distAt, count));
    if (l === 0 && round >= rounds - 2) k.run.voteBest(...votes, weightAt, labelAt);
    else k.run.voteMean(...votes, weightAt);
    onProgress((round + 1) / rounds);
  }
  level.target.set(k.u8(targetAt, level.target.length));
  return {
    matches: k.i32(matchAt, count * 2).slice(),
    labels: l === 0 ? k.i32(labelAt, pixelCount * 2).slice() : undefined,
  };
}
