import { createRaster, intersect, isEmpty, type Box, type Channels, type Depth, type Raster } from './raster.ts';

/** Side of a block, px. */
export const BLOCK = 256;

/** A picture of which only some blocks are at hand, such as the neighbourhood of a brush. */
export class BlockPicture {
  private readonly blocks = new Map<string, Raster>();
  private kind: { channels: Channels; depth: Depth } | undefined;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {}

  private readonly name = (bx: number, by: number) => `${bx}/${by}`;

  /** Box of whole blocks, cut to the picture, around those blocks of `box` that are not at hand; empty when all are. */
  missing(box: Box): Box {
    let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
    this.each(box, (bx, by) => {
      if (this.blocks.has(this.name(bx, by))) return;
      [x0, y0, x1, y1] = [Math.min(x0, bx), Math.min(y0, by), Math.max(x1, bx), Math.max(y1, by)];
    });
    if (x1 < x0) return { x: 0, y: 0, width: 0, height: 0 };
    return intersect(
      { x: x0 * BLOCK, y: y0 * BLOCK, width: (x1 - x0 + 1) * BLOCK, height: (y1 - y0 + 1) * BLOCK },
      { x: 0, y: 0, width: this.width, height: this.height },
    );
  }

  /** Keeps pixels that begin at a block's corner. */
  put(at: Box, pixels: Raster): void {
    this.kind = { channels: pixels.channels, depth: pixels.depth };
    this.each(at, (bx, by) => {
      const box = intersect({ x: bx * BLOCK, y: by * BLOCK, width: BLOCK, height: BLOCK }, at);
      const block = createRaster(box.width, box.height, pixels.channels, pixels.depth);
      const row = box.width * pixels.channels;
      for (let y = 0; y < box.height; y++) {
        const from = ((box.y - at.y + y) * pixels.width + box.x - at.x) * pixels.channels;
        block.data.set(pixels.data.subarray(from, from + row), y * row);
      }
      this.blocks.set(this.name(bx, by), block);
    });
  }

  /**
   * A copy of the pixels in a box.
   * @throws Error when a block of it is not at hand
   */
  read = (box: Box): Raster => {
    if (!this.kind) throw new Error('No pixels are at hand yet.');
    const { channels, depth } = this.kind;
    const out = createRaster(box.width, box.height, channels, depth);
    this.each(box, (bx, by) => {
      const block = this.blocks.get(this.name(bx, by));
      if (!block) throw new Error('These pixels are not at hand yet.');
      const part = intersect({ x: bx * BLOCK, y: by * BLOCK, width: block.width, height: block.height }, box);
      const row = part.width * channels;
      for (let y = 0; y < part.height; y++) {
        const from = ((part.y - by * BLOCK + y) * block.width + part.x - bx * BLOCK) * channels;
        out.data.set(
          block.data.subarray(from, from + row),
          ((part.y - box.y + y) * box.width + part.x - box.x) * channels,
        );
      }
    });
    return out;
  };

  private each(box: Box, visit: (bx: number, by: number) => void): void {
    const inside = intersect(box, { x: 0, y: 0, width: this.width, height: this.height });
    if (isEmpty(inside)) return;
    for (let by = Math.floor(inside.y / BLOCK); by * BLOCK < inside.y + inside.height; by++)
      for (let bx = Math.floor(inside.x / BLOCK); bx * BLOCK < inside.x + inside.width; bx++) visit(bx, by);
  }
}
