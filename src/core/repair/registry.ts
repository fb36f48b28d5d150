import type { Box } from '../raster/raster.ts';
import { fill } from './fill/index.ts';
import { given } from './given.ts';
import { blend } from './hand/blend.ts';
import { copy } from './hand/copy.ts';
import { patch } from './hand/patch.ts';
import { shade } from './hand/shade.ts';
import { transplant } from './hand/transplant.ts';
import type { Beneath, Piece, Rendered, RepairMethod, Share } from './method.ts';
import type { Patch } from '../raster/patch.ts';
import type { RepairSpec } from './spec.ts';

/** Every method, one line each. */
const METHODS: { [M in RepairSpec['method']]: RepairMethod<Extract<RepairSpec, { method: M }>> } = {
  fill,
  given,
  copy,
  blend,
  patch,
  transplant,
  shade,
};

/** A method for any spec of its own kind; the registry above keeps kind and method together. */
const methodOf = (spec: RepairSpec) => METHODS[spec.method] as RepairMethod<RepairSpec>;

/** The present version of a method. */
export const versionOf = (method: RepairSpec['method']): number => METHODS[method].version ?? 1;

/** Whether a spec was made for an earlier version of its method, so that it would be rendered otherwise today. */
export const isEarlier = (spec: RepairSpec): boolean => (spec.version ?? 1) < versionOf(spec.method);

/** A new spec, made for the present version of its method. */
export const dated = <S extends RepairSpec>(spec: S): S => ({ ...spec, version: versionOf(spec.method) });

/** Styles of earlier versions and what takes their place. */
const SUCCESSORS = { near: 'first', far: 'second', lines: 'third' } as const;

/** A spec for the present version of its method. */
export function renewed(spec: RepairSpec): RepairSpec {
  if (spec.method !== 'fill') return dated(spec);
  const style =
    spec.turn || spec.scale || spec.mirror
      ? spec.style
      : spec.style in SUCCESSORS
        ? SUCCESSORS[spec.style as keyof typeof SUCCESSORS]
        : spec.style;
  return dated({ ...spec, style });
}

/** What a repair may read of the picture beneath it. */
export const readBox = (spec: RepairSpec, width: number, height: number): Box =>
  methodOf(spec).readBox(spec, width, height);

/** Renders a repair over the picture beneath it; see {@link RepairMethod.render}. */
export const renderRepair = (
  beneath: Beneath,
  spec: RepairSpec,
  onProgress?: (done: number) => void,
  pieces?: readonly Piece[],
): Rendered => methodOf(spec).render(beneath, spec, onProgress, pieces);

/** Whether several threads had better divide a rendering; see {@link RepairMethod.divides}. */
export const divides = (spec: RepairSpec, width: number, height: number): boolean =>
  methodOf(spec).divides?.(spec, width, height) ?? false;

/** One share of what can be done ahead of a rendering; see {@link RepairMethod.ahead}. */
export const renderAhead = (
  beneath: Beneath,
  spec: RepairSpec,
  share: Share,
  onProgress?: (done: number) => void,
): Piece[] => methodOf(spec).ahead?.(beneath, spec, share, onProgress) ?? [];

/** How a repair will about look; null where that is not worth it. See {@link RepairMethod.sketch}. */
export const sketchRepair = (beneath: Beneath, spec: RepairSpec): Patch | null =>
  methodOf(spec).sketch?.(beneath, spec) ?? null;
