import type { Box, Raster } from '../../raster/raster.ts';
import type { FillRegion } from './fill-region.ts';
import { lightAround, usableIn } from './light-around.ts';
import { withoutLight, type Light } from './light.ts';
import { linesOut } from './lines/out.ts';
import { fillRegion } from './region.ts';
import { DEFAULT_FILL, type FillStyle } from './settings.ts';

/** What goes on over what is added to a picture: it is taken off first, and put on again. */
export interface Outward {
  /** without all that */
  region: FillRegion;
  /** what light does; null where it does nothing */
  light: Light | null;
  /** draws thin lines on over what is covered, still without light, in place */
  draw(filled: Raster, cover: Uint8Array): void;
  /** about all that, for the person who has to judge it */
  words: string;
}

/** A picture as if there were no lines: nothing that is taken from it shows them. */
function withoutLines({ picture, cover, unknown }: FillRegion, lines: Uint8Array): Raster {
  const beside = cover.map((v, i) => (v || unknown?.[i] ? 1 : 0));
  return fillRegion({ picture, cover: lines, unknown: beside }, { ...DEFAULT_FILL, style: 'faithful' }).picture;
}

/**
 * Takes off a region what goes on beyond the edge of a picture by itself: its light, shadows that leave it, thin lines that do.
 * @param barred 1 where the subject is; null without one
 * @param cover its box in the region
 */
export function outwardOf(
  region: FillRegion,
  style: FillStyle | 'auto',
  barred: Uint8Array | null,
  cover: Box,
): Outward {
  const { light, words } = lightAround(region, style, barred, cover);
  const even = light ? { ...region, picture: withoutLight(region.picture, light) } : region;
  const lines = linesOut(even.picture, usableIn(region), cover);
  if (!lines) return { region: even, light, draw: () => undefined, words };
  return {
    region: { ...even, picture: withoutLines(even, lines.mask) },
    light,
    draw: lines.draw,
    words: `${words}${lines.words}`,
  };
}
