// What the speed of fills is measured on: covers of camera size and thin ones, on photographs.
import { rasterise, type Shape } from '../src/core/mask/shapes.ts';
import type { Raster } from '../src/core/raster/raster.ts';
import { CLEAN_FITTED, CLEAN_MEASURED, cleanPhotograph } from './photographs.ts';
import { blob, coverOf, dust, mesh, photograph, spoiled, wires } from './planted.ts';

export interface SpeedCase {
  name: string;
  kind: 'wide' | 'thin';
  /** processor time at most, as a share of the commit before; what is aimed at */
  must: number;
  aim: number;
  /** of a thin cover: processor time at most, in that of a native-grade diffusion */
  references?: number;
  read(): Promise<{ picture: Raster; cover: Uint8Array; shapes?: Shape[] }>;
}

const cleanNamed = (name: string) => [...CLEAN_FITTED, ...CLEAN_MEASURED].find((p) => p.name.startsWith(name))!;

const planted = async (truth: Raster, shapes: (w: number, h: number) => Shape[]) => {
  const cover = coverOf(shapes(truth.width, truth.height), truth.width, truth.height);
  return { picture: spoiled(truth, cover), cover };
};

/** A disc over so many megapixels in the middle of a photograph. */
const wide = (name: string, megapixels: number) => async () => {
  const truth = await cleanPhotograph(cleanNamed(name));
  const shapes = blob(truth.width / 2, truth.height / 2, Math.sqrt((megapixels * 1e6) / Math.PI));
  const cover = rasterise(shapes, {
    x: 0,
    y: 0,
    width: truth.width,
    height: truth.height,
  }).data.map((v) => (v ? 1 : 0));
  return { picture: spoiled(truth, cover), cover, shapes };
};

const thin = (name: string, shapes: (w: number, h: number) => Shape[]) => async () =>
  planted(await photograph(name, 1600), shapes);

export const SPEED_CASES: SpeedCase[] = [
  { name: 'wide: .35 of 8 MP', kind: 'wide', must: 1 / 3, aim: 1 / 7, read: wide('picosdeeuropa', 0.35) },
  { name: 'wide: 1.6 of 16 MP', kind: 'wide', must: 1 / 6, aim: 1 / 15, read: wide('seeding', 1.6) },
  {
    name: 'thin: wires',
    kind: 'thin',
    must: 1 / 4,
    aim: 1 / 10,
    references: 3,
    read: thin('french-alpine-landscape', wires),
  },
  { name: 'thin: mesh', kind: 'thin', must: 1 / 4, aim: 1 / 10, references: 1, read: thin('march-pastoral', mesh) },
  { name: 'thin: dust', kind: 'thin', must: 1 / 4, aim: 1 / 10, references: 3, read: thin('nagasaki-boats', dust) },
];
