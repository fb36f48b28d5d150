import type { Box } from '../../raster/raster.ts';
import type { FillRegion } from './fill-region.ts';
import { lightOf, type Light } from './light.ts';
import type { FillStyle } from './settings.ts';
import { shadowOf } from './shadows/beside.ts';
import { shadowsOut, type ShadowsOut } from './shadows/out.ts';
import { shadeWithin } from './shadows/within.ts';

/** Styles that search among donors close by. */
const SEARCHED: ReadonlySet<string> = new Set<FillStyle>(['textured', 'near', 'far', 'lines']);

/** What of a region may be looked at and taken from. */
export const usableIn = ({ cover, unknown, allowed }: FillRegion): Uint8Array =>
  cover.map((v, i) => (v || unknown?.[i] || allowed?.[i] === 0 ? 0 : 1));

/** Nothing comes from where a mask is. */
function barAlso({ allowed }: FillRegion, mask: Uint8Array): void {
  if (allowed) for (let i = 0; i < allowed.length; i++) if (mask[i]) allowed[i] = 0;
}

/** The shadow of what is barred. */
const shadowIn = ({ picture, cover, unknown }: FillRegion, barred: Uint8Array): Uint8Array | null =>
  shadowOf(
    picture,
    barred,
    cover.map((v, i) => (v || unknown?.[i] ? 1 : 0)),
  );

/** What light does to a fill, in words. */
function wordsFor(fall: Light | null, out: ShadowsOut | null): string {
  const fallsOff = fall
    ? ` Its light falls off by ${fall.stops.toFixed(1)} stops: taken off first, and carried on.`
    : '';
  if (!out) return fallsOff;
  const many = out.count > 1 ? `${out.count} shadows leave` : 'A shadow leaves';
  return `${fallsOff} ${many} the picture there: carried on in ${out.count > 1 ? 'their' : 'its'} direction.`;
}

/** Light in which shade lies. */
const inShade = (light: Light | null, shade: (x: number, y: number, channel: number) => number): Light => ({
  stops: light?.stops ?? 0,
  gain: (x, y, channel) => (light ? light.gain(x, y, channel) : 1) * shade(x, y, channel),
});

/**
 * What light does around what is added to a picture: its fall-off, and shadows that leave the picture there. From a shadow nothing is
 * taken: it is left out of what the region allows, in place; a search, which would be left with too few donors, takes from it what
 * would be there without it.
 * @param barred 1 where the subject is; null without one
 * @param cover its box in the region
 * @returns null light where nothing is to be taken off
 */
export function lightAround(
  region: FillRegion,
  style: FillStyle | 'auto',
  barred: Uint8Array | null,
  cover: Box,
): { light: Light | null; words: string } {
  const { picture, level = false } = region;
  const seen = usableIn(region);
  const shadow = level && barred ? shadowIn(region, barred) : null;
  const isSearched = SEARCHED.has(style);
  if (shadow && !isSearched) barAlso(region, shadow);
  const lit = shadow ? seen.map((v, i) => (shadow[i] ? 0 : v)) : seen;
  const fall = lightOf(picture, lit, level);
  const out = shadowsOut(picture, fall, seen, cover);
  if (out) barAlso(region, out.barred);
  let light = out ? inShade(fall, out.shade) : fall;
  if (shadow && isSearched) light = inShade(light, shadeWithin(picture, fall, seen, shadow));
  return { light, words: wordsFor(fall, out) };
}
