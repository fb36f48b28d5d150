import type { Sign } from '../check/finding.ts';
import { signsOfRepair } from '../check/repair.ts';
import { boundsWithin, boxShape, scaleShapes, type Shape } from '../mask/shapes.ts';
import { compositeOver, type Patch } from '../raster/patch.ts';
import {
  around,
  boxOf,
  colourChannels,
  createRaster,
  crop,
  fullScale,
  intersect,
  isEmpty,
  paste,
  shiftBox,
  type Box,
  type Raster,
} from '../raster/raster.ts';
import { fillOfAdded } from '../repair/fill/added.ts';
import type { Beneath } from '../repair/method.ts';
import { dated, renderRepair } from '../repair/registry.ts';
import type { FillSpec, RepairSpec, StretchSpec, StretchWay } from '../repair/spec.ts';
import type { Render } from './best-render.ts';
import { slightlyOnto } from '../repair/stretch/amounts.ts';

/** Ways to a canvas that add something to a picture: filling, drawing out, or some of each. */
export const GROWING_WAYS = ['extend', 'stretch', 'mixed'] as const;
export type GrowingWay = (typeof GROWING_WAYS)[number];

/** What is asked of a picture's canvas; px of the picture. */
export interface WayAsked {
  way: GrowingWay;
  canvas: Box;
  /** nothing of it is drawn out or filled from */
  subject: readonly Shape[];
  /** how the background is drawn out */
  by: StretchWay;
  /** what is still to be treated: nothing is filled from it */
  open?: readonly Shape[];
  /** where fills may come from, and where not beside the subject */
  donorArea?: readonly Shape[];
  barred?: readonly Shape[];
  /** lines along which edges go on in what is added */
  edges?: readonly Shape[];
}

/** The box around a subject within what is kept of a picture; null without one. */
export function guardBox(subject: readonly Shape[], kept: Box): Box | null {
  const box = boundsWithin(subject, kept);
  return isEmpty(box) ? null : box;
}

/**
 * The repairs that lead to a canvas, in the order in which they are made.
 * @param source where there is something of the picture
 */
export function specsOfWay(asked: WayAsked, source: Box): RepairSpec[] {
  const { way, canvas, subject, by, open = [], donorArea = [], barred = [], edges = [] } = asked;
  const from = intersect(source, canvas);
  const guard = guardBox(subject, from);
  const onto = way === 'extend' ? from : way === 'stretch' ? canvas : slightlyOnto(from, canvas, guard);
  const specs: RepairSpec[] = [];
  const guarded = guard ? [boxShape(guard)] : [];
  if (around(onto, from).length)
    specs.push(
      dated<StretchSpec>({ method: 'stretch', from, onto, guard: guarded, ...(by === 'seams' && { way: by }) }),
    );
  const strips = around(canvas, onto);
  if (strips.length)
    specs.push(
      dated<FillSpec>({
        ...fillOfAdded(strips, [...subject, ...barred]),
        avoid: [...open],
        donorArea: [...donorArea],
        ...(edges.length && { edges: [...edges] }),
      }),
    );
  return specs;
}

/** A picture on a canvas of another size, which may begin below 0: what it adds is opaque and black. */
export function onCanvas(picture: Raster, canvas: Box): Raster {
  const out = createRaster(canvas.width, canvas.height, picture.channels, picture.depth);
  // What is added is there: it is as opaque as can be.
  if (colourChannels(picture.channels) < picture.channels) out.data.fill(fullScale(picture.depth));
  const kept = intersect(boxOf(picture), canvas);
  if (!isEmpty(kept)) paste(crop(picture, kept), out, shiftBox(kept, -canvas.x, -canvas.y));
  return out;
}

/** How a way is gone: what is heard of each repair once it is made, and how fills and all repairs are made, as they are for good where left out. */
interface Going {
  render?: Render;
  heard?: (beneath: Beneath, spec: RepairSpec, patch: Patch) => unknown;
  style?: FillSpec['style'];
  onProgress?: (done: number) => void;
}

/** How fills are made to be looked at: of all ways the fastest by far, and of the same character. */
const LOOKED_AT = 'near';

/**
 * Goes a way on a canvas that has its picture where it lies, in place.
 * @param source where it has something of the picture
 * @returns how each step of it was done
 * @throws Error in words where the way cannot be gone
 */
export function goWay(
  raster: Raster,
  source: Box,
  asked: WayAsked,
  { heard, style, onProgress, render = renderRepair }: Going = {},
): string[] {
  const { canvas } = asked;
  const specs = specsOfWay(asked, source);
  return specs.map((spec, n) => {
    const beneath: Beneath = { ...canvas, read: (box) => crop(raster, shiftBox(box, -canvas.x, -canvas.y)) };
    const made = spec.method === 'fill' && style ? { ...spec, style } : spec;
    const { patch, reason } = render(beneath, made, (done) => onProgress?.((n + done) / specs.length));
    heard?.(beneath, spec, patch);
    compositeOver(raster, canvas, patch, 1);
    return reason;
  });
}

/**
 * Goes a way at a reduced size, so that it can be looked at before it is taken.
 * @param picture the picture reduced
 * @param scale px of the picture a px of that
 * @returns the canvas reduced, and what gives it away there
 * @throws Error in words where the way cannot be gone
 */
export function previewOf(
  picture: Raster,
  scale: number,
  asked: WayAsked,
  onProgress?: (done: number) => void,
): { raster: Raster; signs: Sign[] } {
  const at = (v: number) => Math.round(v / scale);
  const { x, y, width, height } = asked.canvas;
  const canvas = { x: at(x), y: at(y), width: at(x + width) - at(x), height: at(y + height) - at(y) };
  const raster = onCanvas(picture, canvas);
  const signs: Sign[] = [];
  const scaled = (shapes: readonly Shape[]) => scaleShapes(shapes, 1 / scale);
  const small: WayAsked = { ...asked, canvas, subject: scaled(asked.subject) };
  for (const name of ['open', 'donorArea', 'barred', 'edges'] as const) small[name] = scaled(asked[name] ?? []);
  const heard: Going['heard'] = (...made) => signs.push(...signsOfRepair(...made));
  goWay(raster, boxOf(picture), small, { heard, style: LOOKED_AT, onProgress });
  return { raster, signs };
}
