import type { Box, Raster } from '../../../raster/raster.ts';
import type { Light } from '../light.ts';
import { enlarged } from './beside.ts';
import { cellsOf, litRows, Logs, RIM, type Cells } from './lit.ts';
import { depthAt, linePx, placeAcross, profileOf, type Line, type Profile } from './profile.ts';
import { sidesOf, type Side } from '../sides.ts';
import { tracksIn, type Beside } from './tracks.ts';

/** Deviations of what is lit by which a shadow has to be darker. */
const CLEAR = 4;
/** Share of a picture that has to be lit alike at each height, within so much, natural logarithm. */
const LIT_SHARE = 0.6;
const LIT_BY = 0.08;
/** Share of the picture over which a shadow is followed from its edge, and share of the followed part over which it is faded out. */
const FOLLOWED = 0.15;
const FADE = 0.25;

/** Shadows that leave the picture where it is extended. */
export interface ShadowsOut {
  count: number;
  /** at a px, what is left of a channel in shade: 1 where there is none */
  shade(x: number, y: number, channel: number): number;
  /** 1 where donors would be taken from shadow */
  barred: Uint8Array;
}

/** Cells in shadow that hang together with what was followed, of the size of the picture. */
function barredFrom(
  { by, w, h, depths, usual }: Cells,
  isShaded: (x: number, y: number) => boolean,
  width: number,
  height: number,
) {
  const dark = Math.max(RIM, 3 * usual);
  const mask = new Uint8Array(w * h);
  const list: number[] = [];
  for (let o = 0; o < mask.length; o++) {
    if (depths[o] > dark && isShaded(((o % w) + 0.5) * by, (Math.floor(o / w) + 0.5) * by)) {
      mask[o] = 1;
      list.push(o);
    }
  }
  for (let k = 0; k < list.length; k++) {
    const x = list[k] % w;
    for (const j of [x > 0 ? list[k] - 1 : -1, x + 1 < w ? list[k] + 1 : -1, list[k] - w, list[k] + w]) {
      if (j < 0 || j >= mask.length || mask[j] || !(depths[j] > dark)) continue;
      mask[j] = 1;
      list.push(j);
    }
  }
  return enlarged(mask, w, h, by, width, height);
}

/** Whether most of a picture is of one tone at each height: there a shadow can be told from what is dark by itself. */
function isEven({ depths }: Cells): boolean {
  const known = depths.filter((v) => v === v);
  return known.filter((v) => Math.abs(v) < LIT_BY).length >= LIT_SHARE * known.length;
}

/** Cells as they lie beside a side, as deep as shadows are followed. */
function besideOf({ by, w, h, ...cells }: Cells, side: Side): Beside {
  const across = Math.floor(side.along / by);
  const rows = Math.min(Math.floor(side.away / by) - 1, Math.max(12, Math.ceil((FOLLOWED * side.away) / by)));
  const depths = new Float32Array(Math.max(0, rows) * across);
  const levels = depths.slice();
  for (let k = 0, o = 0; k < rows; k++)
    for (let s = 0; s < across; s++, o++) {
      const { x, y } = side.at((s + 0.5) * by, (k + 0.5) * by);
      const [u, v] = [Math.floor(x / by), Math.floor(y / by)];
      const i = u >= 0 && v >= 0 && u < w && v < h ? v * w + u : NaN;
      depths[o] = cells.depths[i] ?? NaN;
      levels[o] = cells.levels[i] ?? NaN;
    }
  return { across, rows: Math.max(0, rows), depths, levels };
}

/**
 * Shadows that leave a picture where it is extended: bands with straight ends, darker than what is lit at their height by about the
 * same factor in every channel, of its texture. They go on in their direction, as deep and as soft as they are near the edge.
 * @param light its fall-off, which counts as taken off
 * @param usable 1 where pixels count
 * @param cover box of what is added
 * @returns null where there are none
 * Source: common practice (shade as a factor of what lies beneath it); constants from made-up pictures and own tests.
 */
export function shadowsOut(picture: Raster, light: Light | null, usable: Uint8Array, cover: Box): ShadowsOut | null {
  const { width, height } = picture;
  const sides = sidesOf(cover, width, height, usable);
  if (!sides.length) return null;
  const logs = new Logs(picture, light);
  const cells = cellsOf(logs, usable);
  if (!isEven(cells)) return null;
  const found: { side: Side; line: Line; profile: Profile }[] = [];
  let lit: Float32Array[] | null = null;
  for (const side of sides) {
    const beside = besideOf(cells, side);
    for (const track of beside.rows > 0 ? tracksIn(beside, CLEAR * cells.usual) : []) {
      const line = linePx(track, cells.by, side.along);
      lit ??= litRows(logs, usable, cells);
      const profile = profileOf(logs, usable, lit, side, line);
      if (profile) found.push({ side, line, profile });
    }
  }
  if (!found.length) return null;
  const shade = (x: number, y: number, channel: number) => {
    let depth = 0;
    for (const { side, line, profile } of found) {
      const { s, n } = side.of(x + 0.5, y + 0.5);
      if (n > line.rows) continue;
      const share = Math.min(1, (line.rows - n) / (FADE * line.rows));
      depth += share * depthAt(profile, channel, placeAcross(line, s, n));
    }
    return depth ? Math.exp(-depth) : 1;
  };
  const isShaded = (x: number, y: number) =>
    found.some(({ side, line, profile }) => {
      const { s, n } = side.of(x, y);
      return n >= 0 && n <= line.rows && depthAt(profile, 0, placeAcross(line, s, n)) > RIM;
    });
  return { count: found.length, shade, barred: barredFrom(cells, isShaded, width, height) };
}
