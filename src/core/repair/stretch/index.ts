import { coverBounds, shiftShapes } from '../../mask/shapes.ts';
import { lumaPlane } from '../../raster/luma.ts';
import { emptyPatch } from '../../raster/patch.ts';
import { colourChannels, fullScale, isEmpty, shiftBox, type Box, type Raster } from '../../raster/raster.ts';
import type { RepairMethod, Rendered } from '../method.ts';
import type { StretchSpec } from '../spec.ts';
import { amountsInWords, amountsOf } from './amounts.ts';
import { drawnOut, readFrom, type Axis } from './axis.ts';
import { grainAt, grainOf, placeFor, SQUARE, type Grain } from './grain.ts';
import { readRow, tapsOf, type Taps } from './resample.ts';
import { transposed, withSeams, type Part } from './seams.ts';

/** Rows and columns of which one in so many is looked at for what they show. */
const LOOKED_AT = 3;
/** Levels of a step that count at most, so that one strong line does not stand for a whole column. */
const STRONG = 60;

/** How much each column and each row shows: mean step across and along. */
function energies(luma: Float32Array, width: number, height: number): { across: Float64Array; down: Float64Array } {
  const across = new Float64Array(width);
  const down = new Float64Array(height);
  for (let y = 1; y < height; y += LOOKED_AT)
    for (let x = 1, i = y * width + 1; x < width; x++, i++) {
      across[x] += Math.min(STRONG, Math.abs(luma[i] - luma[i - 1]));
      if (x % LOOKED_AT === 0) down[y] += Math.min(STRONG, Math.abs(luma[i] - luma[i - width]));
    }
  for (let y = 0; y < height; y++)
    if (y % LOOKED_AT !== 1) down[y] = down[Math.min(height - 1, y - (y % LOOKED_AT) + 1)];
  return { across, down };
}

interface Way {
  axis: Axis;
  taps: Taps;
  wide: Float64Array;
  /** 1 where a px of the target is that of the source, where it was */
  same: Uint8Array;
}

/** How one axis is drawn out. */
function wayOf(
  energy: Float64Array,
  guard: { from: number; to: number } | null,
  [before, after]: [number, number],
): Way {
  const axis = drawnOut(energy, guard, before, after);
  const { at, wide } = readFrom(axis, -before, energy.length + before + after);
  const same = Uint8Array.from(at, (place, k) => (Math.abs(place - (k - before)) < 1e-6 ? 1 : 0));
  return { axis, taps: tapsOf(at, wide, energy.length), wide, same };
}

/** Rows of the source read along the first axis, the last few kept. */
function rowsOf(picture: Raster, colours: 1 | 3, across: Way, length: number): (y: number) => Float32Array {
  const { width, channels, data } = picture;
  const kept = new Map<number, Float32Array>();
  const own = new Float32Array(width * colours);
  const most = 64;
  return (y) => {
    const known = kept.get(y);
    if (known) return known;
    for (let x = 0, i = y * width * channels, o = 0; x < width; x++, i += channels)
      for (let c = 0; c < colours; c++) own[o++] = data[i + c];
    const oldest = kept.size >= most ? (kept.keys().next().value as number) : null;
    const out = oldest === null ? new Float32Array(length * colours) : kept.get(oldest)!;
    if (oldest !== null) kept.delete(oldest);
    readRow(own, 0, colours, across.taps, out);
    kept.set(y, out);
    return out;
  };
}

/** A row of the target, read along both axes. */
function readDown(
  rows: (y: number) => Float32Array,
  { from, count, weights, size }: Taps,
  y: number,
  out: Float32Array,
) {
  if (count[y] === 1) return out.set(rows(from[y]));
  out.fill(0);
  for (let j = 0; j < count[y]; j++) {
    const row = rows(from[y] + j);
    const w = weights[y * size + j];
    for (let k = 0; k < out.length; k++) out[k] += w * row[k];
  }
}

/** Adds to rows of the target, from the first on, the grain that drawing them out took. */
function grainAdder(grain: Grain, colours: 1 | 3, unit: number, across: Way, down: Way) {
  const leftAcross = across.wide.map((wide) => grain.left(wide));
  const places: Array<ReturnType<typeof placeFor>> = [];
  return (row: Float32Array, y: number): void => {
    const length = row.length / colours;
    const leftDown = grain.left(down.wide[y]);
    for (let from = 0, n = 0; from < length; from += SQUARE, n++) {
      const to = Math.min(length, from + SQUARE);
      if (y % SQUARE === 0) {
        let tone = 0;
        for (let o = from * colours; o < to * colours; o++) tone += row[o];
        places[n] = placeFor(grain, n, y / SQUARE, tone / ((to - from) * colours * unit));
      }
      const { tile, size } = places[n];
      for (let x = from, o = from * colours; x < to; x++) {
        const lost = 1 - leftAcross[x] * leftDown;
        const add = lost > 0 ? unit * size * Math.sqrt(lost) * grainAt(grain, tile, x - from, y % SQUARE) : 0;
        for (let c = 0; c < colours; c++) row[o++] += add;
      }
    }
  };
}

/** What is guarded, as a box within the picture; null where nothing is. */
function guardOf(spec: StretchSpec): Box | null {
  const { from, guard } = spec;
  const box = coverBounds(shiftShapes(guard, -from.x, -from.y), 0, 0, from.width, from.height);
  return isEmpty(box) ? null : box;
}

/** What each side of an axis becomes wider by, beside what is guarded; without that, on both sides of the px that smooth ways begin at. */
function partsOf(
  length: number,
  guard: { from: number; to: number } | null,
  [before, after]: [number, number],
): Part[] {
  const at = Math.round(length * (before === after ? 0.5 : Math.min(1, Math.max(0, before / (before + after)))));
  const [from, to] = guard ? [guard.from, guard.to] : [at, at];
  return [
    { from: 0, to: from, add: before },
    { from: to, to: length, add: after },
  ];
}

/** Draws out by inserted seams. */
function seamed({ picture, guard, adds }: Drawing, onProgress?: (done: number) => void): Raster {
  const across = partsOf(picture.width, guard && { from: guard.x, to: guard.x + guard.width }, adds.across);
  const down = partsOf(picture.height, guard && { from: guard.y, to: guard.y + guard.height }, adds.down);
  const both = across.some((p) => p.add) && down.some((p) => p.add) ? 0.5 : 1;
  const wide = withSeams(picture, across, (f) => onProgress?.(both * f));
  if (!down.some((p) => p.add)) return wide;
  return transposed(withSeams(transposed(wide), down, (f) => onProgress?.(1 - both + both * f)));
}

/** What is to be drawn out, and by how much before and after, px. */
interface Drawing {
  picture: Raster;
  guard: Box | null;
  adds: { across: [number, number]; down: [number, number] };
}

/** Lays what inserted seams made of a picture onto its canvas, all but what is guarded. */
function renderSeams(drawing: Drawing, { from, onto }: StretchSpec, onProgress?: (done: number) => void): Rendered {
  const { picture, guard } = drawing;
  const made = seamed(drawing, onProgress);
  const patch = emptyPatch(onto, picture);
  const colours = colourChannels(picture.channels);
  const kept = guard && { ...guard, x: guard.x + from.x - onto.x, y: guard.y + from.y - onto.y };
  for (let y = 0; y < onto.height; y++)
    for (let x = 0; x < onto.width; x++) {
      if (kept && x >= kept.x && y >= kept.y && x < kept.x + kept.width && y < kept.y + kept.height) continue;
      const [i, o] = [(y * onto.width + x) * made.channels, (y * onto.width + x) * patch.channels];
      for (let c = 0; c < colours; c++) patch.data[o + c] = made.data[i + c];
      patch.data[o + colours] = fullScale(picture.depth);
    }
  const box = guard && { ...guard, x: guard.x + from.x, y: guard.y + from.y };
  const words = amountsInWords(amountsOf(from, onto, box));
  return { patch, reason: `Seams inserted, ${words}.${box ? KEPT : ''}` };
}

const KEPT = ' What is guarded is as it was, to the pixel.';

function render(beneath: { read(box: Box): Raster }, spec: StretchSpec, onProgress?: (done: number) => void): Rendered {
  const { from, onto } = spec;
  const picture = beneath.read(from);
  const { width, height } = picture;
  const guard = guardOf(spec);
  const adds: Drawing['adds'] = {
    across: [from.x - onto.x, onto.x + onto.width - from.x - width],
    down: [from.y - onto.y, onto.y + onto.height - from.y - height],
  };
  if (spec.way === 'seams') return renderSeams({ picture, guard, adds }, spec, onProgress);
  const luma = lumaPlane(picture);
  const seen = energies(luma, width, height);
  const across = wayOf(seen.across, guard && { from: guard.x, to: guard.x + guard.width }, adds.across);
  const down = wayOf(seen.down, guard && { from: guard.y, to: guard.y + guard.height }, adds.down);
  const grain = grainOf(luma, width, height, guard);
  const colours = colourChannels(picture.channels);
  const unit = fullScale(picture.depth) / 255;
  const top = fullScale(picture.depth);
  const addGrain = grain && grainAdder(grain, colours, unit, across, down);
  const patch = emptyPatch(onto, picture);
  const rows = rowsOf(picture, colours, across, onto.width);
  const row = new Float32Array(onto.width * colours);
  for (let y = 0; y < onto.height; y++) {
    readDown(rows, down.taps, y, row);
    addGrain?.(row, y);
    for (let x = 0, o = y * onto.width * patch.channels; x < onto.width; x++, o += patch.channels) {
      if (across.same[x] && down.same[y]) continue;
      for (let c = 0; c < colours; c++)
        patch.data[o + c] = Math.round(Math.min(top, Math.max(0, row[x * colours + c])));
      patch.data[o + colours] = top;
    }
    if (y % 64 === 0) onProgress?.(y / onto.height);
  }
  const box = guard && { ...guard, x: guard.x + from.x, y: guard.y + from.y };
  const most = Math.max(across.axis.most, down.axis.most);
  const words = amountsInWords(amountsOf(from, onto, box));
  return { patch, reason: `Background drawn out ${words}, ${most.toFixed(2)} times at most.${box ? KEPT : ''}` };
}

/** Stretch: the background is drawn out over what the canvas adds, plain parts more than others; what is guarded stays to the pixel. */
export const stretch: RepairMethod<StretchSpec> = {
  method: 'stretch',
  shift: (spec, dx, dy) => ({
    ...spec,
    from: shiftBox(spec.from, dx, dy),
    onto: shiftBox(spec.onto, dx, dy),
    guard: shiftShapes(spec.guard, dx, dy),
  }),
  readBox: ({ from }) => from,
  render,
};
