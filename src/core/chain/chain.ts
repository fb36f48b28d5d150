import type { PatchLayer } from '../raster/patch.ts';
import { boxOf, type Box, type Raster } from '../raster/raster.ts';
import { fieldOf } from '../repair/registry.ts';
import type { Beneath } from '../repair/method.ts';
import type { RepairSpec } from '../repair/spec.ts';
import { canvas } from './canvas.ts';
import { stepsOf, type StepSpec } from './registry.ts';
import { retouch } from './retouch.ts';
import { chained, pixelsOf, type Pixels } from './step.ts';

/** The base: a source after its scan steps, with repairs laid on from the bottom up. */
export function baseOf(source: Raster, specs: readonly StepSpec[], layers: readonly PatchLayer[]): Pixels {
  return chained(pixelsOf(source), [...stepsOf(specs, 'scan'), retouch(layers)]);
}

/** The finished picture: base, frame and finish. */
export function pictureOf(source: Raster, specs: readonly StepSpec[], layers: readonly PatchLayer[]): Pixels {
  return chained(baseOf(source, specs, layers), [...stepsOf(specs, 'frame'), ...stepsOf(specs, 'finish')]);
}

/** The finished picture as it leaves: levelled and cut. What repairs hold beyond its canvas stays out. */
export function deliveredOf(source: Raster, specs: readonly StepSpec[], layers: readonly PatchLayer[]): Pixels {
  return chained(pictureOf(source, specs, layers), [canvas(extentOf(source, specs)), ...stepsOf(specs, 'end')]);
}

/** The box of the finished picture as people work on it, px of the base. */
export function extentOf(source: { width: number; height: number }, specs: readonly StepSpec[]): Box {
  const steps = [...stepsOf(specs, 'scan'), ...stepsOf(specs, 'frame'), ...stepsOf(specs, 'finish')];
  return steps.reduce((box, step) => step.extent(box), boxOf(source));
}

/** What lies beneath a repair, in the area that it knows of. */
export function beneathOf(
  source: Raster,
  layers: readonly PatchLayer[],
  spec: RepairSpec,
  given?: Beneath['given'],
): Beneath {
  const { read, gap } = chained(pixelsOf(source), [retouch(layers)]);
  return { ...fieldOf(spec, source), read, given, ...(spec.canvas && { gap }) };
}
