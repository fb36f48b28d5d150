import { shiftBox, union, type Box } from '../raster/raster.ts';
import { fill } from './fill/index.ts';
import { given } from './given.ts';
import { blend } from './hand/blend.ts';
import { copy } from './hand/copy.ts';
import { patch } from './hand/patch.ts';
import { shade } from './hand/shade.ts';
import { lift } from './lift/index.ts';
import { stretch } from './stretch/index.ts';
import { strip } from './strip/index.ts';
import { transplant } from './hand/transplant.ts';
import type { Beneath, Piece, Rendered, RepairMethod, Share } from './method.ts';
import type { Patch } from '../raster/patch.ts';
import type { RepairSpec } from './spec.ts';

/** Every method, one line each. */
const METHODS: { [M in RepairSpec['method']]: RepairMethod<Extract<RepairSpec, { method: M }>> } = {
  fill,
  lift,
  stretch,
  strip,
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

/** A new spec, made for the present version of its method, on the canvas as it is now. */
export function dated<S extends RepairSpec>(spec: S, canvas?: Box): S {
  const made = { ...spec, version: versionOf(spec.method) };
  if (!canvas) return made;
  // Made once on another canvas, it goes on knowing all that it knew of.
  return { ...made, canvas: spec.canvas ? union(spec.canvas, canvas) : canvas };
}

/** Styles of earlier versions and what takes their place. */
const SUCCESSORS = { near: 'first', far: 'second', lines: 'third' } as const;

/** A spec for the present version of its method. */
export function renewed(spec: RepairSpec, canvas?: Box): RepairSpec {
  if (spec.method !== 'fill') return dated(spec, canvas);
  const style =
    spec.turn || spec.scale || spec.mirror
      ? spec.style
      : spec.style in SUCCESSORS
        ? SUCCESSORS[spec.style as keyof typeof SUCCESSORS]
        : spec.style;
  return dated({ ...spec, style }, canvas);
}

/** A spec for a picture whose corner lies elsewhere; see {@link RepairMethod.shift}. */
export const shiftSpec = <S extends RepairSpec>(spec: S, dx: number, dy: number): S =>
  dx || dy ? (methodOf(spec).shift(spec, dx, dy) as S) : spec;

/** The area that a repair knows of: the source, and the canvas it was made on. */
export const fieldOf = (spec: RepairSpec, { width, height }: { width: number; height: number }): Box =>
  spec.canvas ? union({ x: 0, y: 0, width, height }, spec.canvas) : { x: 0, y: 0, width, height };

/** A spec and what lies beneath it, moved so that the latter begins at 0, 0; and by how much. */
function local(beneath: Beneath, spec: RepairSpec): { beneath: Beneath; spec: RepairSpec; x: number; y: number } {
  const { x = 0, y = 0, width, height, read, gap, given } = beneath;
  if (x === 0 && y === 0) return { beneath, spec, x, y };
  const moved: Beneath = {
    width,
    height,
    read: (box) => read(shiftBox(box, x, y)),
    gap: gap && ((box) => gap(shiftBox(box, x, y))),
    given: (index) => {
      const patch = given?.(index);
      return patch && { ...patch, x: patch.x - x, y: patch.y - y };
    },
  };
  return { beneath: moved, spec: shiftSpec(spec, -x, -y), x, y };
}

const back = <T extends { x: number; y: number }>(placed: T, x: number, y: number): T =>
  x === 0 && y === 0 ? placed : { ...placed, x: placed.x + x, y: placed.y + y };

/** What a repair may read of the picture beneath it, which lies in `field`. */
export function readBox(spec: RepairSpec, field: Box): Box {
  const { x, y, width, height } = field;
  return back(methodOf(spec).readBox(shiftSpec(spec, -x, -y), width, height), x, y);
}

/** Renders a repair over the picture beneath it; see {@link RepairMethod.render}. */
export function renderRepair(
  picture: Beneath,
  wanted: RepairSpec,
  onProgress?: (done: number) => void,
  pieces?: readonly Piece[],
): Rendered {
  const { beneath, spec, x, y } = local(picture, wanted);
  const own = pieces?.map((piece) => back(piece, -x, -y));
  const { patch, reason } = methodOf(spec).render(beneath, spec, onProgress, own);
  return { patch: back(patch, x, y), reason };
}

/** Whether several threads had better divide a rendering; see {@link RepairMethod.divides}. */
export function divides(spec: RepairSpec, { x, y, width, height }: Box): boolean {
  return methodOf(spec).divides?.(shiftSpec(spec, -x, -y), width, height) ?? false;
}

/** One share of what can be done ahead of a rendering; see {@link RepairMethod.ahead}. */
export function renderAhead(
  picture: Beneath,
  wanted: RepairSpec,
  share: Share,
  onProgress?: (done: number) => void,
): Piece[] {
  const { beneath, spec, x, y } = local(picture, wanted);
  const pieces = methodOf(spec).ahead?.(beneath, spec, share, onProgress) ?? [];
  return pieces.map((piece) => back(piece, x, y));
}

/** How a repair will about look; null where that is not worth it. See {@link RepairMethod.sketch}. */
export function sketchRepair(picture: Beneath, wanted: RepairSpec): Patch | null {
  const { beneath, spec, x, y } = local(picture, wanted);
  const patch = methodOf(spec).sketch?.(beneath, spec) ?? null;
  return patch && back(patch, x, y);
}
