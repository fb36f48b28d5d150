import { canvasOf, fieldOf, specsOf } from '../../document/canvas.ts';
import type { PictureDocument } from '../../contract/document.ts';
import type { StepSpec } from '../../core/chain/registry.ts';
import type { PatchLayer } from '../../core/raster/patch.ts';
import { allocatePyramid } from '../../core/raster/pyramid.ts';
import {
  allocateSamples,
  boxOf,
  contains,
  intersect,
  isEmpty,
  shiftBox,
  type Box,
  type Raster,
} from '../../core/raster/raster.ts';
import type { Pool } from '../work/pool.ts';

/** A picture at full size and halved again and again, as far as the view needs it. */
export interface Levels {
  raster: Raster;
  pyramid: Raster[];
}

const sizeOf = ({ raster, pyramid }: Levels) =>
  [raster, ...pyramid].reduce((sum, { data }) => sum + data.byteLength, 0);

const sameBox = (a: Box, b: Box) => contains(a, b) && contains(b, a);

/** Empty levels of a size, in memory that threads share. */
function empty({ width, height }: Box, kind: Raster): Levels {
  const data = allocateSamples(width * height * kind.channels, kind.depth, true);
  const raster: Raster = { ...kind, width, height, data };
  return { raster, pyramid: allocatePyramid(raster) };
}

/**
 * The finished picture in memory, before and after its repairs: a cache of what its chain of steps gives. Rasters begin at the
 * canvas' corner; boxes are px of the base.
 */
export class CanvasView {
  /** where the canvas lies */
  box: Box;
  /** as it came; the source itself where the canvas is the source's */
  before: Levels;
  /** with its repairs; the same as before until there are any */
  after: Levels;
  private steps: StepSpec[] = [];

  constructor(
    private readonly source: Levels,
    private readonly pool: Pool,
  ) {
    this.box = boxOf(source.raster);
    this.before = this.after = source;
  }

  bytes(): number {
    return [...new Set([this.source, this.before, this.after])].reduce((sum, l) => sum + sizeOf(l), 0);
  }

  /** Follows the document's steps. @returns whether the canvas is another one now, on which no repairs lie yet */
  async follow(document: PictureDocument): Promise<boolean> {
    this.steps = specsOf(document);
    const box = canvasOf(document, this.source.raster);
    if (sameBox(box, this.box)) return false;
    let before = this.source;
    if (!sameBox(box, boxOf(this.source.raster))) {
      before = empty(box, this.source.raster);
      await this.read(before, box, box, []);
    }
    this.box = box;
    this.before = this.after = before;
    return true;
  }

  /** Reads a part of the picture anew. @returns the part of it that lies on the canvas */
  async refresh(part: Box, layers: readonly PatchLayer[]): Promise<Box> {
    const box = intersect(part, this.box);
    if (isEmpty(box)) return box;
    this.own();
    await this.read(this.after, this.box, box, layers);
    return box;
  }

  /** The area in which there may be something: source and canvas. */
  field(document: PictureDocument): Box {
    return fieldOf(document, this.source.raster);
  }

  /** A box of the base in px of the canvas. */
  onCanvas(box: Box): Box {
    return shiftBox(box, -this.box.x, -this.box.y);
  }

  private async read(into: Levels, canvas: Box, box: Box, layers: readonly PatchLayer[]): Promise<void> {
    const { raster: target, pyramid } = into;
    const input = { original: this.source.raster, steps: this.steps, target, corner: canvas, pyramid, box };
    await this.pool.run('composite', { ...input, layers: [...layers] });
  }

  /** Gives what is shown pixels of its own before the first repair is laid on. */
  private own(): void {
    if (this.after !== this.before) return;
    const own = empty(this.box, this.before.raster);
    own.raster.data.set(this.before.raster.data);
    this.before.pyramid.forEach((level, i) => own.pyramid[i].data.set(level.data));
    this.after = own;
  }
}
