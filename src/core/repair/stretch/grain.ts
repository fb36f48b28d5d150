import { quantile } from '../../raster/luma.ts';
import { blur } from '../../raster/planes.ts';
import type { Box } from '../../raster/raster.ts';
import { readRow, tapsOf } from './resample.ts';

/** What is finer than this blur, px, is grain. */
const FINE = 2;
/** Side of the places that grain is taken from, and of the squares it is laid in, px. */
const TILE = 24;
/** At most so many places are looked at. */
const LOOKED_AT = 6000;
/** Of places of one tone, the share that is the plainest; how many of them nearest in tone grain is taken from. */
const PLAIN = 0.4;
const NEAREST = 24;
/** How many times its usual size grain counts at most, so that no edge is laid elsewhere. */
const MOST = 2.5;
/** How many times px are widened where the loss is measured. */
const WIDER = [1, 1.25, 1.5, 2, 3];

interface Tile {
  x: number;
  y: number;
  tone: number;
  /** its usual size of grain, levels */
  size: number;
}

/** Grain of a background: where plain places are, what they have, and what is left of it when it is drawn out. */
export interface Grain {
  detail: Float32Array;
  width: number;
  tiles: Tile[];
  /** share of its energy that is left where px are so many times as wide */
  left(wide: number): number;
}

const sizeOf = (values: number[]) => 1.4826 * quantile(values, 0.5);

/** Share of the energy of grain that is left in a place that is drawn out along its rows. */
function leftAt(luma: Float32Array, width: number, { x, y }: Tile, side: number, wide: number): number {
  const length = Math.floor(side * wide);
  const at = Float64Array.from({ length }, (_, k) => (k + 0.5) / wide - 0.5);
  const taps = tapsOf(at, new Float64Array(length).fill(wide), side);
  const out = new Float32Array(length * side);
  const row = new Float32Array(length);
  for (let v = 0; v < side; v++) {
    readRow(luma, (y + v) * width + x, 1, taps, row);
    out.set(row, v * length);
  }
  const soft = blur(out, length, side, FINE);
  return sizeOf(Array.from(out, (v, i) => Math.abs(v - soft[i])));
}

/**
 * Measures the grain of a background.
 * @param luma plane of the picture, 0 to 255
 * @param guard what is not background; null for nothing
 * @returns null where there is no plain place to measure it in
 */
export function grainOf(luma: Float32Array, width: number, height: number, guard: Box | null): Grain | null {
  const soft = blur(luma, width, height, FINE);
  const detail = luma.map((v, i) => v - soft[i]);
  const step = Math.max(TILE, Math.ceil(Math.sqrt((width * height) / LOOKED_AT)));
  const tiles: Tile[] = [];
  for (let y = 4; y + TILE + 4 <= height; y += step)
    for (let x = 4; x + TILE + 4 <= width; x += step) {
      const isGuarded =
        guard && x < guard.x + guard.width && x + TILE > guard.x && y < guard.y + guard.height && y + TILE > guard.y;
      if (isGuarded) continue;
      const values: number[] = [];
      let tone = 0;
      for (let v = 0; v < TILE; v += 2)
        for (let u = 0; u < TILE; u += 2) {
          const i = (y + v) * width + x + u;
          values.push(Math.abs(detail[i]));
          tone += soft[i];
        }
      tiles.push({ x, y, tone: tone / values.length, size: sizeOf(values) });
    }
  if (tiles.length < 8) return null;
  tiles.sort((a, b) => a.tone - b.tone);
  const plain = tiles.filter((t, n) => {
    const near = tiles.slice(Math.max(0, n - NEAREST), n + NEAREST + 1).map((o) => o.size);
    return t.size > 0.05 && t.size <= quantile(near, PLAIN);
  });
  if (plain.length < 4) return null;
  const measured = Array.from(
    { length: Math.min(12, plain.length) },
    (_, n) => plain[Math.floor((n * plain.length) / 12)] ?? plain[0],
  );
  const shares = WIDER.map((wide) => {
    const list = measured.map(
      (t) => leftAt(luma, width, t, TILE, wide) / Math.max(0.05, leftAt(luma, width, t, TILE, 1)),
    );
    return Math.min(1, quantile(list, 0.5) ** 2);
  });
  const left = (wide: number) => {
    if (wide <= 1) return 1;
    const i = Math.max(
      0,
      WIDER.findLastIndex((w) => w <= wide),
    );
    if (i >= WIDER.length - 1) return shares[WIDER.length - 1];
    return shares[i] + ((shares[i + 1] - shares[i]) * (wide - WIDER[i])) / (WIDER[i + 1] - WIDER[i]);
  };
  return { detail, width, tiles: plain, left };
}

/** A whole number that looks like chance, the same for the same place. */
function chanceAt(x: number, y: number): number {
  let h = Math.imul(x + 0x9e37, 0x85ebca6b) ^ Math.imul(y + 0x79b9, 0xc2b2ae35);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  return (h ^ (h >>> 13)) >>> 0;
}

/** The plain place that a square of some tone takes its grain from, and the usual size of grain at that tone. */
export function placeFor({ tiles }: Grain, column: number, row: number, tone: number): { tile: Tile; size: number } {
  let [low, high] = [0, tiles.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (tiles[middle].tone < tone) low = middle + 1;
    else high = middle;
  }
  const from = Math.max(0, Math.min(tiles.length - NEAREST, low - NEAREST / 2));
  const near = tiles.slice(from, from + NEAREST);
  const size = quantile(
    near.map((t) => t.size),
    0.5,
  );
  return { tile: near[chanceAt(column, row) % near.length], size };
}

/** Side of the squares that grain is laid in, px. */
export const SQUARE = TILE;

/** Grain of a place at a px of a square, of an energy of 1. */
export function grainAt({ detail, width }: Grain, { x, y, size }: Tile, u: number, v: number): number {
  const value = detail[(y + v) * width + x + u] / size;
  return Math.max(-MOST, Math.min(MOST, value));
}
