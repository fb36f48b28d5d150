import { boxOfRows, meanAt, REACH, WIDE, type Band, type Lab } from '../band.ts';
import type { FindingKind, Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';
import { medianOf } from '../../raster/luma.ts';
import { runsOf } from '../runs.ts';

/** Depths into a cover that are looked at, px, and distances outside. */
const INSIDE = [
  [-4, -1],
  [-10, -5],
  [-18, -11],
  [-28, -19],
] as const;
const OUTSIDE = [
  [2, 8],
  [9, 15],
  [16, 22],
  [23, 29],
] as const;
/** Samples along the border that are taken together. */
const TILE = 8;
/** Difference of Lab up to which a tile is of the same ground. */
const ALIKE = 7;
/** Tiles of the same ground that are needed to tell. */
const ENOUGH = 5;
/** Share of the least grain around, and how many times the most, from which on it is lost or false; and L* between. */
const LOST = 0.45;
const FALSE = 2.3;
const LESS = 0.3;
const MORE = 0.4;
/** Tiles in a row that have to show it. */
const LEAST = 3;

interface Tile {
  tone: Lab;
  /** fine detail: median departure from what a few px around are, whatever lines run through, L* */
  grain: number;
  /** the same from what lies along the border only: edges that run along it are no grain */
  along: number;
}

/** Samples along the border, to either side, and beside it that one is compared with; and how many have to be known. */
const AROUND = { rows: 1, columns: 2, least: 7 };
const ALONG = { rows: 3, columns: 0, least: 4 };

/** How much more fine detail departs from its surroundings than from what lies along the border alone, at the most. */
const LENGTHWISE = 1.3;

/** Departure of each sample from the mean of those around it, L*. */
function departures({ L, rows }: Band, over: typeof AROUND): Float32Array {
  const out = new Float32Array(L.length).fill(NaN);
  const [sums, counts] = [new Float64Array(WIDE), new Uint8Array(WIDE)];
  for (let row = 0; row < rows; row++) {
    sums.fill(0);
    counts.fill(0);
    for (let r = -over.rows; r <= over.rows; r++) {
      const from = ((row + r + rows) % rows) * WIDE;
      for (let k = 0; k < WIDE; k++) {
        const v = L[from + k];
        if (v !== v) continue;
        sums[k] += v;
        counts[k]++;
      }
    }
    for (let k = 2; k < WIDE - 2; k++) {
      const own = L[row * WIDE + k];
      if (own !== own) continue;
      let [sum, n] = [0, 0];
      // The border's own jump is no grain.
      const first = k > REACH ? Math.max(REACH + 1, k - over.columns) : k - over.columns;
      const last = k > REACH ? k + over.columns : Math.min(REACH, k + over.columns);
      for (let c = first; c <= last; c++) {
        sum += sums[c];
        n += counts[c];
      }
      if (n > over.least) out[row * WIDE + k] = Math.abs(own - sum / n);
    }
  }
  return out;
}

/** What departs within a tile, while its middle is looked for. */
const [list, lengthwise] = [new Float32Array(TILE * WIDE), new Float32Array(TILE * WIDE)];

function tileOf(
  band: Band,
  [fine, along]: readonly [Float32Array, Float32Array],
  from: number,
  [a, b]: readonly [number, number],
): Tile | null {
  let [departs, departsAlong, known] = [0, 0, 0];
  const tone: Lab = [0, 0, 0];
  for (let row = from; row < from + TILE; row++) {
    const r = row % band.rows;
    for (let k = r * WIDE + REACH + a; k <= r * WIDE + REACH + b; k++) {
      if (fine[k] !== fine[k]) continue;
      list[departs++] = fine[k];
      if (along[k] === along[k]) lengthwise[departsAlong++] = along[k];
    }
    const mean = meanAt(band, r, a, b);
    if (!mean) continue;
    known++;
    for (let c = 0; c < 3; c++) tone[c] += mean[c];
  }
  if (2 * departs < TILE * (b - a + 1) || 2 * known < TILE) return null;
  return {
    tone: tone.map((v) => v / known) as Lab,
    grain: medianOf(list, departs),
    along: departsAlong ? medianOf(lengthwise, departsAlong) : 0,
  };
}

/** Finds among tiles those of about a tone: their grain, from the least to the most. */
function alikeAmong(tiles: readonly Tile[]): (tone: Lab) => Float32Array {
  const sorted = tiles.slice().sort((a, b) => a.tone[0] - b.tone[0]);
  const planes = [0, 1, 2].map((c) => Float64Array.from(sorted, (t) => t.tone[c]));
  const [L, A, B] = planes;
  const found = new Float32Array(sorted.length);
  return ([l, a, b]) => {
    let [low, high] = [0, sorted.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (L[middle] < l - ALIKE) low = middle + 1;
      else high = middle;
    }
    let n = 0;
    for (let i = low; i < sorted.length && L[i] <= l + ALIKE; i++)
      if ((L[i] - l) ** 2 + (A[i] - a) ** 2 + (B[i] - b) ** 2 < ALIKE * ALIKE) found[n++] = sorted[i].grain;
    return found.slice(0, n).sort();
  };
}

/** Value below which a share of a sorted list lies. */
const sharesOf = (sorted: Float32Array, share: number) => sorted[Math.floor(share * sorted.length)];

function grainAlong(place: Place, band: Band): Sign[] {
  const fine = [departures(band, AROUND), departures(band, ALONG)] as const;
  const count = Math.floor(band.rows / TILE);
  if (!count) return [];
  const tiles = (bin: readonly [number, number]) =>
    Array.from({ length: count }, (_, t) => tileOf(band, fine, t * TILE, bin));
  const alike = alikeAmong(OUTSIDE.flatMap(tiles).filter((t) => t !== null));
  const out: Sign[] = [];
  for (const bin of INSIDE) {
    const judged = tiles(bin).map((tile) => {
      if (!tile) return null;
      const grains = alike(tile.tone);
      if (grains.length < ENOUGH) return null;
      return {
        grain: tile.grain,
        along: tile.along,
        low: sharesOf(grains, 0.15),
        high: sharesOf(grains, 0.9),
        usual: sharesOf(grains, 0.5),
      };
    });
    const told = (kind: FindingKind, least: number, holds: (t: NonNullable<(typeof judged)[number]>) => boolean) => {
      for (const run of runsOf(count, (t) => judged[t] !== null && holds(judged[t]), Math.min(least, count), 0)) {
        const own = Array.from({ length: run.length }, (_, k) => judged[(run.from + k) % count]!);
        const mean = (of: (t: (typeof own)[number]) => number) => own.reduce((s, t) => s + of(t), 0) / own.length;
        const figure = mean((t) => t.grain / Math.max(0.05, t.usual));
        out.push({
          kind,
          box: inPicture(place, boxOfRows(band, run.from * TILE, run.to * TILE + TILE - 1, -bin[0])),
          figure,
          unit: 'of the grain around',
          difference: 3 * Math.abs(mean((t) => t.grain - t.usual)),
          across: bin[1] - bin[0] + 1,
          along: 2 * TILE * run.length,
          remedy: kind === 'lost-grain' ? 'restore-grain' : 'other-try',
        });
      }
    };
    told('lost-grain', LEAST, (t) => t.grain < LOST * t.low && t.usual - t.grain > LESS);
    told(
      'false-grain',
      LEAST - 1,
      (t) => Math.min(t.grain, LENGTHWISE * t.along) > FALSE * t.high && t.grain - t.usual > MORE,
    );
  }
  return out;
}

/**
 * Lost and false grain: fine detail by depth into a cover (rim, then deeper) against tiles around it that are of the same tone.
 * Source: own.
 */
export const grain = (place: Place): Sign[] => place.bands.flatMap((band) => grainAlong(place, band));
