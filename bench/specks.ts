// Specks of known truth, planted in photographs, and how a list of finds compares with them.
import { boxMean, lumaPlane } from '../src/core/raster/luma.ts';
import type { Find } from '../src/core/find/find.ts';
import { weighedSpecks } from '../src/core/find/specks/specks.ts';
import { rasterise } from '../src/core/mask/shapes.ts';
import { createRaster, type Raster } from '../src/core/raster/raster.ts';
import { plantedContrast, plantedTone, starkContrast, type Planting } from './planted.ts';

export interface PlantedSpeck {
  x: number;
  y: number;
  rx: number;
  ry: number;
  area: number;
}

/** What is planted stands out by so many times the standard deviation around it (at least 20 levels where it is even). */
export const SPECK_CONTRASTS = [10, 7, 5];

/**
 * Plants specks as dust and drops are: flat ellipses 2 to 40 px across (small ones far more often), light or dark,
 * with a hard edge or one as soft as a fifth of their size.
 * @returns the picture, the specks, and for each pixel the number of its speck + 1
 */
export function plantSpecks(clean: Raster, count: number, planting: Planting) {
  const { random, varied } = planting;
  const { width, height } = clean;
  const picture: Raster = { ...createRaster(width, height, 3, 8), data: clean.data.slice() };
  const luma = { width, height, data: lumaPlane(clean) };
  const owner = new Uint16Array(width * height);
  const list: PlantedSpeck[] = [];
  const mean = boxMean(luma, 8).data;
  const square = boxMean({ width, height, data: luma.data.map((v) => v * v) }, 8).data;
  for (let tries = 0; list.length < count && tries < count * 20; tries++) {
    const size = 2 * 20 ** (random() ** 2);
    const rx = size / 2;
    const ry = rx * (0.6 + 0.4 * random());
    const x = random() * width;
    const y = random() * height;
    const soft = varied ? Math.max(0.5, size * 0.18 * random() ** 2) : random() < 0.5 ? 0.5 : Math.max(0.5, size * 0.1);
    const turn = varied ? random() * Math.PI : 0;
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    const light = random() < 0.5;
    const reach = Math.ceil(rx + soft + 12);
    if (x < reach || y < reach || x > width - reach || y > height - reach) continue;
    let free = true;
    for (let v = -reach; v <= reach && free; v++)
      for (let u = -reach; u <= reach; u++) if (owner[Math.floor(y + v) * width + Math.floor(x + u)]) free = false;
    if (!free) continue;
    const i = Math.floor(y) * width + Math.floor(x);
    const deviation = Math.sqrt(Math.max(0, square[i] - mean[i] ** 2));
    const stark = starkContrast(planting);
    const wanted = Math.max(stark, plantedContrast(deviation, planting));
    const { tone, tones } = plantedTone(light, [246, 14], planting);
    const room = Math.abs(tone - mean[i]);
    if (room < wanted * 0.9) continue;
    const opacity = Math.min(1, wanted / room);
    let area = 0;
    for (let v = Math.floor(y - reach); v <= y + reach; v++) {
      for (let u = Math.floor(x - reach); u <= x + reach; u++) {
        const [p0, q0] = [u + 0.5 - x, v + 0.5 - y];
        const d = Math.hypot((cos * p0 + sin * q0) / rx, (cos * q0 - sin * p0) / ry);
        const share = Math.min(1, Math.max(0, 0.5 + ((1 - d) * Math.min(rx, ry)) / (2 * soft)));
        if (share <= 0) continue;
        const p = v * width + u;
        if (share >= 0.5) {
          owner[p] = list.length + 1;
          area++;
        }
        for (let c = 0; c < 3; c++)
          picture.data[p * 3 + c] = Math.round(
            picture.data[p * 3 + c] + (tones[c] - picture.data[p * 3 + c]) * share * opacity,
          );
      }
    }
    if (area === 0) {
      owner[Math.floor(y) * width + Math.floor(x)] = list.length + 1;
      area = 1;
    }
    list.push({ x, y, rx, ry, area });
  }
  return { picture, list, owner };
}

/** Which planted speck a find is: they share more than half of each; −1 when it is none. */
export function matchSpeck(
  find: Pick<Find, 'shapes' | 'box'>,
  owner: Uint16Array,
  list: PlantedSpeck[],
  width: number,
) {
  const mask = rasterise(find.shapes, find.box);
  const shared = new Map<number, number>();
  let own = 0;
  for (let v = 0, k = 0; v < mask.height; v++) {
    for (let u = 0; u < mask.width; u++, k++) {
      if (!mask.data[k]) continue;
      own++;
      const o = owner[(mask.y + v) * width + mask.x + u];
      if (o) shared.set(o, (shared.get(o) ?? 0) + 1);
    }
  }
  for (const [o, n] of shared) if (2 * n >= own && 2 * n >= list[o - 1].area) return o - 1;
  return -1;
}

/** Everything in a picture that may be a speck; see {@link weighedSpecks}. */
export const lookForSpecks = (picture: Raster) => weighedSpecks({ picture, luma: lumaPlane(picture) });

/** Most false specks that a clean picture may show. */
export const MOST_FALSE = 10;

/** What is shown at the usual sensitivity. */
export const shown = <F extends { score: number }>(finds: readonly F[]): F[] => finds.filter((f) => f.score >= 0.5);

/** How well planted specks were found: what `excused` says is neither for nor against. */
export function speckResult(
  finds: ReadonlyArray<Pick<Find, 'shapes' | 'box'>>,
  { picture, list, owner }: ReturnType<typeof plantSpecks>,
  excused: (find: Pick<Find, 'box'>) => boolean = () => false,
): { f1: number; wrong: number } {
  const seen = new Set<number>();
  let wrong = 0;
  for (const f of finds) {
    const match = matchSpeck(f, owner, list, picture.width);
    if (match >= 0) seen.add(match);
    else if (!excused(f)) wrong++;
  }
  return { f1: (2 * seen.size) / (seen.size + wrong + list.length), wrong };
}
