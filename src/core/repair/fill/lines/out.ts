import { channelReader } from '../../../find/strand/straightened-band.ts';
import { strandOutline } from '../../../find/strand/strand-cover.ts';
import { rasterise, type Point } from '../../../mask/shapes.ts';
import { boxOf, colourChannels, fullScale, type Box, type Raster } from '../../../raster/raster.ts';
import { sidesOf, type Side } from '../sides.ts';
import { linesLeaving, type Leaving } from './leaving.ts';

/** px beside a line that its edges, a lens and sampling reach. */
const VEIL = 3;
/** Samples a px across a line, and px inside the edge along which it is measured. */
const FINE = 4;
const MEASURED = 96;
/** px beside a line between which its ground is measured. */
const BESIDE = 3;

/** Thin lines that leave a picture where it is extended. */
export interface LinesOut {
  /** what is done about them, for the person who has to judge it */
  words: string;
  /** 1 on those lines, as far as they were followed */
  mask: Uint8Array;
  /** draws them on over what is covered, in place */
  draw(picture: Raster, cover: Uint8Array): void;
}

/** What a line is like across, sample by sample from `reach` px on one side of its middle to as many on the other. */
interface Look {
  reach: number;
  /** how far it hides the ground, 0 to 1, and in what colour, a plane a channel */
  hides: Float32Array;
  colours: Float32Array[];
}

/** Share of what a line hides in its middle from which on it hides the ground wholly. */
const WHOLE = 0.9;

/** Measured over what was seen of the line next to the edge. */
function lookOf(read: ReadonlyArray<(n: number, s: number) => number>, { course, strand }: Leaving): Look {
  const middle = Math.round((strand.width / 2 + VEIL) * FINE);
  const reach = middle / FINE;
  const size = 2 * middle + 1;
  const values = read.map(() => new Float32Array(size));
  const above = read.map(() => new Float32Array(size));
  const near = strand.points.filter(([n]) => n >= 1 && n <= MEASURED);
  for (const [n, s] of near) {
    const slope = course.slope(n);
    const length = Math.hypot(1, slope);
    read.forEach((channel, c) => {
      const at = (d: number) => channel(n - (d * slope) / length, s + d / length);
      const side = (sign: 1 | -1) =>
        (at(sign * reach) + at(sign * (reach + BESIDE / 2)) + at(sign * (reach + BESIDE))) / 3;
      const [before, after] = [side(-1), side(1)];
      for (let k = 0; k < size; k++) {
        const d = (k - middle) / FINE;
        const value = at(d);
        values[c][k] += value / near.length;
        above[c][k] += (value - before - ((after - before) * (d / reach + 1)) / 2) / near.length;
      }
    });
  }
  // How far each place is from the ground towards what the middle is like.
  const most = above.reduce((sum, own) => sum + own[middle] ** 2, 0) || 1;
  const hides = Float32Array.from({ length: size }, (_, k) =>
    above.reduce((sum, own) => sum + (own[k] * own[middle]) / most, 0),
  );
  const first = hides.findIndex((v) => v >= WHOLE);
  const last = hides.findLastIndex((v) => v >= WHOLE);
  const colours = values.map((own) => own.map((_, k) => own[Math.min(last, Math.max(first, k))]));
  for (let k = 0; k < size; k++) {
    // Nothing at its ends, or a step would be seen there.
    const end = Math.min(1, (middle - Math.abs(k - middle)) / FINE);
    hides[k] = k >= first && k <= last ? 1 : hides[k] * end;
  }
  return { reach, hides, colours };
}

interface Line extends Leaving {
  side: Side;
  look: Look;
}

/** Draws one line over what is covered. */
function drawLine(picture: Raster, cover: Uint8Array, box: Box, { side, course, look }: Line): void {
  const { width, channels, data, depth } = picture;
  const colours = colourChannels(channels);
  const full = fullScale(depth);
  const { reach, hides } = look;
  for (let y = box.y; y < box.y + box.height; y++)
    for (let x = box.x; x < box.x + box.width; x++) {
      const i = y * width + x;
      if (!cover[i]) continue;
      const { s, n } = side.of(x + 0.5, y + 0.5);
      const k = ((s - course.at(n)) / Math.hypot(1, course.slope(n)) + reach) * FINE;
      if (!(k > 0 && k < hides.length - 1)) continue;
      const [low, part] = [Math.floor(k), k % 1];
      const between = (list: Float32Array) => list[low] + part * (list[low + 1] - list[low]);
      const share = between(hides);
      for (let c = 0; c < colours; c++) {
        const ground = data[i * channels + c];
        const value = ground + share * ((between(look.colours[c]) * full) / 255 - ground);
        data[i * channels + c] = Math.round(Math.min(full, Math.max(0, value)));
      }
    }
}

const wordsFor = (count: number): string =>
  count > 1
    ? ` ${count} thin lines leave the picture there: carried on as they run.`
    : ' A thin line leaves the picture there: carried on as it runs.';

/**
 * Thin lines that leave a picture where it is extended, to be carried on as they run: a layout would break them.
 * @param usable 1 where pixels count
 * @param cover box of what is added
 * @returns null where there are none
 * Source: own; constants from made-up pictures and own tests.
 */
export function linesOut(picture: Raster, usable: Uint8Array, cover: Box): LinesOut | null {
  const { width, height } = picture;
  const luma = channelReader(picture, 'luma');
  const each = Array.from({ length: colourChannels(picture.channels) }, (_, c) =>
    channelReader(picture, c as 0 | 1 | 2),
  );
  const lines = sidesOf(cover, width, height, usable).flatMap((side): Line[] => {
    const place = (n: number, s: number) => side.at(s, n);
    const beside =
      (read: (x: number, y: number) => number) =>
      (n: number, s: number): number => {
        // Beyond the edge nothing is known.
        const { x, y } = place(Math.max(0.5, n), s);
        return read(x, y);
      };
    const isKnown = (n: number, s: number) => {
      const { x, y } = place(n, s);
      const [u, v] = [Math.floor(x), Math.floor(y)];
      return u >= 0 && v >= 0 && u < width && v < height && usable[v * width + u] === 1;
    };
    const beyond = side.along === height ? cover.width : cover.height;
    const ground = { read: beside(luma), isKnown };
    return linesLeaving(ground, { inside: side.away, along: side.along }, beyond).map((line) => ({
      ...line,
      side,
      look: lookOf(each.map(beside), line),
    }));
  });
  if (!lines.length) return null;
  const outlines = lines.map(({ side, points, course, strand }): Point[] => {
    const [before, last] = points.slice(-2);
    // A little farther at both ends, as whatever is cut slantwise ends.
    const far = (2 * strand.width) / (Math.hypot(last[0] - before[0], last[1] - before[1]) || 1);
    const end: Point = [last[0] + far * (last[0] - before[0]), last[1] + far * (last[1] - before[1])];
    const all = [[-VEIL, course.at(-VEIL)], ...points, end].map(([n, s]): Point => {
      const { x, y } = side.at(s, n);
      return [x, y];
    });
    return strandOutline({ points: all, widths: all.map(() => strand.width) }, VEIL);
  });
  const shapes = outlines.map((points) => ({ op: 'add' as const, kind: 'outline' as const, points }));
  const mask = rasterise(shapes, boxOf(picture)).data.map((v, i) => (v && usable[i] ? 1 : 0));
  return {
    words: wordsFor(lines.length),
    mask,
    draw: (out, where) => lines.forEach((line) => drawLine(out, where, cover, line)),
  };
}
