import { limitsFrom } from '../codec/limits.ts';
import { boundsOf } from '../core/mask/mask.ts';
import type { Shape } from '../core/mask/shapes.ts';
import { onCanvas } from '../core/plan/frame-ways.ts';
import { compositeOver } from '../core/raster/patch.ts';
import { boxOf, crop, isEmpty, type Box, type Raster } from '../core/raster/raster.ts';
import { renderRepair } from '../core/repair/registry.ts';
import type { StretchSpec, StretchWay } from '../core/repair/spec.ts';
import { maskOf, read, sameSize } from './files.ts';
import { UsageError } from './usage.ts';

export const shapeOf = (box: Box): Shape => ({ op: 'add', kind: 'box', ...box });

/** A picture on a canvas of another size, which may begin below 0: what it adds is opaque and black. @throws UsageError */
export function canvasWith(picture: Raster, canvas: Box, option: string): Raster {
  const { megapixels } = limitsFrom(process.env);
  if (canvas.width * canvas.height > megapixels * 1e6)
    throw new UsageError(
      `--${option} makes it ${canvas.width} × ${canvas.height} px; at most ${megapixels} megapixels are made. Scale the picture down, or raise TERSUM_MAX_MEGAPIXELS.`,
    );
  return onCanvas(picture, canvas);
}

/** The box of what a mask covers; null without a mask. @throws UsageError */
export async function maskBox(path: string | undefined, picture: Raster, option: string): Promise<Box | null> {
  if (!path) return null;
  const mask = (await read(path, option)).raster;
  sameSize(mask, picture, option);
  const box = boundsOf({ ...boxOf(picture), data: maskOf(mask) });
  if (isEmpty(box)) throw new UsageError(`--${option} covers nothing: paint what is to stay white.`);
  return box;
}

/** Draws a picture's background out (or in) onto a canvas, which has it where it lies, in place; says how. @throws UsageError */
export function stretchOnto(
  canvas: Raster,
  onto: Box,
  picture: Raster,
  guard: Box | null,
  way: StretchWay = 'smooth',
): string {
  const from = boxOf(picture);
  const spec: StretchSpec = { method: 'stretch', from, onto, guard: guard ? [shapeOf(guard)] : [], way };
  try {
    const { patch, reason } = renderRepair({ ...from, read: (box) => crop(picture, box) }, spec);
    compositeOver(canvas, onto, patch, 1);
    return reason;
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}
