import { quantile } from '../../raster/luma.ts';
import { BAND, groundAt, medianIn, sectorsAlong, type Beside, type Model } from './model.ts';
import { COLUMNS, REACH, type Unwrapped } from './unwrapped.ts';

/** How strong a stain is by the distance from its edge: 0 outside, about 1 beside the edge inside, more at a rim. */
export interface Profile {
  /** strength by column of the band, from {@link REACH} px inside to as far outside */
  strength: Float32Array;
  /** what that of each channel has beside it; of grey nothing */
  coloured: Float32Array[];
  /** px inside and outside at which the edge ends */
  inner: number;
  outer: number;
}

/** Share of the full strength under which a place counts as outside. */
const GONE = 0.04;
/** How much the strength usually changes over 1 px, standard deviation: deep inside, and how much more beside the edge, where rims are. */
const DRIFT = 0.012;
const RIM = 0.06;
const RIM_DEPTH = 16;
/** px over which what a picture shows is alike, so that so many columns say no more than one. */
const ALIKE = 14;
/** Most that a stain is stronger farther inside than beside its edge. */
const STRONGER = 1.1;
/** px beside the edge that are taken as measured. */
const NEAR = 6;

/** What is measured by column over the sectors of a band, and its uncertainty. */
interface Measured {
  strength: Float32Array;
  error: Float32Array;
}

/** What a sector is like: what the stain would change of it at full strength, and how far each column departs, per channel. */
interface Departures {
  change: number[];
  by: Float32Array[];
}

function departuresAlong(band: Unwrapped, model: Model, widths: Beside): Departures[] {
  const sectors = sectorsAlong(band, widths);
  return sectors.flatMap((sector, n) => {
    if (!sector) return [];
    const from = Math.floor((n * band.rows) / sectors.length);
    const to = Math.floor(((n + 1) * band.rows) / sectors.length);
    const { outside, trend } = sector;
    const change = outside.map((v, c) => (model.gain[c] - 1) * v + model.offset[c]);
    const by = outside.map((v, c) => {
      const column = (_: unknown, k: number) => medianIn(band.planes[c], from, to, k, k + 1) - groundAt(v, trend[c], k);
      return Float32Array.from({ length: COLUMNS }, column);
    });
    return [{ change, by }];
  });
}

/** Strength by column, from all channels or from some. */
function measured(sectors: readonly Departures[], channels: readonly number[]): Measured {
  const lists = Array.from({ length: COLUMNS }, () => [] as Array<[number, number]>);
  for (const { change, by } of sectors) {
    const size = channels.reduce((s, c) => s + change[c] ** 2, 0);
    if (size < 1) continue;
    for (let k = 0; k < COLUMNS; k++) {
      let along = 0;
      for (const c of channels) along += by[c][k] * change[c];
      if (along === along) lists[k].push([along / size, Math.sqrt(size)]);
    }
  }
  const strength = new Float32Array(COLUMNS);
  const error = new Float32Array(COLUMNS).fill(Infinity);
  lists.forEach((list, k) => {
    if (list.length < 4) return;
    list.sort((a, b) => a[0] - b[0]);
    const half = list.reduce((s, [, w]) => s + w, 0) / 2;
    let sum = 0;
    strength[k] = list.find(([, w]) => (sum += w) >= half)![0];
    const off = list.map(([v]) => Math.abs(v - strength[k]));
    error[k] = (1.86 * quantile(off, 0.5)) / Math.sqrt(list.length) + 0.005;
  });
  return { strength, error };
}

/** What a picture changes by over so many px shows outside the stain, as far from where it is compared: it is uncertain by that. */
function addDrift({ strength, error }: Measured, outer: number): void {
  const middle = REACH + Math.round(outer + 1 + BAND / 2);
  let drift = 0;
  for (let d = 1; d <= REACH; d++) {
    const out = middle + d;
    if (out < COLUMNS && Number.isFinite(error[out])) drift = Math.max(drift, Math.abs(strength[out]), error[out]);
    const k = middle - d;
    if (k >= 0) error[k] = Math.hypot(error[k], k < REACH ? drift : 0);
  }
}

/** How much the strength of one channel usually differs from that of all, standard deviation; px over which it is evened out. */
const COLOURED = 0.12;
const EVENED = 2;

/**
 * What a channel's strength has beside that of all: a rim is seldom of quite the colour of what it surrounds. As far as it is sure.
 */
function ofChannel(sectors: readonly Departures[], c: number, { strength, inner, outer }: Profile): Float32Array {
  const own = measured(sectors, [c]);
  const raw = new Float32Array(COLUMNS);
  for (let k = REACH - inner - RIM_DEPTH; k < REACH + outer; k++) {
    if (k < 0 || !Number.isFinite(own.error[k])) continue;
    const share = COLOURED ** 2 / (COLOURED ** 2 + 4 * own.error[k] ** 2);
    const fade = Math.min(1, (k - (REACH - inner - RIM_DEPTH)) / RIM_DEPTH);
    raw[k] = fade * share * Math.max(-0.4, Math.min(0.4, own.strength[k] - strength[k]));
  }
  return raw.map((_, k) => mean(raw, k - EVENED, Math.min(COLUMNS, k + EVENED + 1)));
}

/** Follows what was measured away from the edge, step by step, as far as it is sure. Source: Kalman's filter of a random walk. */
function followed(strength: Float32Array, error: Float32Array, from: number, step: 1 | -1, out: Float32Array): void {
  let value = strength[from];
  let most = 0;
  for (let k = from; k < from + 40 && k < COLUMNS; k++) most = Math.max(most, STRONGER * strength[k]);
  let variance = error[from] ** 2;
  for (let k = from; k >= 0 && k < COLUMNS; k += step) {
    variance += (DRIFT + RIM * Math.exp(-Math.abs(k - from) / RIM_DEPTH)) ** 2;
    const noise = ALIKE * error[k] ** 2;
    if (Number.isFinite(noise)) {
      const off = strength[k] - value;
      // A step that is seen for sure, the inner edge of a ring, is followed at once.
      if (off * off > 16 * (noise + variance)) variance += off * off;
      const share = variance / (variance + noise);
      value += share * off;
      variance *= 1 - share;
    }
    value = Math.min(most, Math.max(0, value));
    out[k] = value;
  }
}

/** Measures how the strength of a stain goes across its edge, and on inwards. */
export function profileOf(band: Unwrapped, model: Model, expected: Beside): Profile {
  const sectors = departuresAlong(band, model, expected);
  const all = measured(
    sectors,
    band.planes.map((_, c) => c),
  );
  addDrift(all, expected.outer);
  const { strength, error } = all;
  let outer = 1;
  while (outer < REACH - BAND - 2 && !quiet(strength, error, REACH + outer)) outer++;
  let inner = 1;
  while (inner < REACH - BAND - 2 && strength[REACH - inner] < 0.97 * mean(strength, REACH - inner - 8, REACH - inner))
    inner++;
  const out = new Float32Array(COLUMNS);
  for (let k = REACH - inner; k < REACH + outer; k++) out[k] = strength[k];
  // Just inside there is nothing yet to go by but what was measured.
  const start = Math.max(0, REACH - inner - NEAR);
  for (let k = start; k < REACH - inner; k++) out[k] = strength[k];
  followed(strength, error, start, -1, out);
  evenRise(out, REACH - inner, REACH + outer);
  const profile: Profile = { strength: out, coloured: [], inner, outer };
  if (band.channels > 1) profile.coloured = band.planes.map((_, c) => ofChannel(sectors, c, profile));
  return profile;
}

const quiet = (strength: Float32Array, error: Float32Array, k: number): boolean => {
  for (let n = 0; n < 3; n++) if (strength[k + n] > Math.max(GONE, 1.5 * Math.min(0.1, error[k + n]))) return false;
  return true;
};

function mean(list: Float32Array, from: number, to: number): number {
  let [sum, n] = [0, 0];
  for (let k = Math.max(0, from); k < to; k++, n++) sum += list[k];
  return n ? sum / n : 0;
}

/** Lets a strength fall evenly from one column to another: pools neighbours that rise. Source: pool adjacent violators. */
function evenRise(strength: Float32Array, from: number, to: number): void {
  const blocks: Array<{ sum: number; n: number }> = [];
  for (let k = from; k < to; k++) {
    blocks.push({ sum: Math.max(0, strength[k]), n: 1 });
    while (blocks.length > 1) {
      const [a, b] = [blocks[blocks.length - 2], blocks[blocks.length - 1]];
      if (a.sum / a.n >= b.sum / b.n) break;
      blocks.splice(-2, 2, { sum: a.sum + b.sum, n: a.n + b.n });
    }
  }
  let k = from;
  for (const { sum, n } of blocks) for (let i = 0; i < n; i++) strength[k++] = sum / n;
}
