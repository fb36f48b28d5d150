import type { PictureDocument } from '../contract/document.ts';
import { extentOf } from '../core/chain/chain.ts';
import type { StepSpec } from '../core/chain/registry.ts';
import { boxOf, union, type Box } from '../core/raster/raster.ts';

type Size = Pick<Box, 'width' | 'height'>;
type Stepped = Pick<PictureDocument, 'steps'>;

/** What is set of a picture's steps, in their order. */
export const specsOf = ({ steps }: Stepped): StepSpec[] => steps.map((s) => s.spec);

/** The canvas: the box of the picture as it leaves the house, px of the base. It may begin below 0. */
export const canvasOf = (document: Stepped, source: Size): Box => extentOf(source, specsOf(document));

/** The area in which there may be something: source and canvas. */
export const fieldOf = (document: Stepped, source: Size): Box => union(boxOf(source), canvasOf(document, source));

/** The canvas that new repairs note: none where there is none. */
export const notedCanvas = ({ steps }: Stepped): Box | undefined =>
  steps.map((s) => s.spec).find((s) => s.step === 'canvas')?.box;
