import { XMLParser } from 'fast-xml-parser';
import { strFromU8, unzipSync, type UnzipFileInfo } from 'fflate';
import { z } from 'zod';
import { allocateSamples, colourChannels, createRaster, fullScale, type Raster } from '../core/raster/raster.ts';
import { compositeOver, type Patch } from '../core/raster/patch.ts';
import { plainName } from '../contract/shapes.ts';
import type { Decoded, GivenLayer } from './decoded.ts';
import { refusePixels, type Limits } from './limits.ts';
import { Refused } from '../contract/refused.ts';
import { usable, type Resolution } from './structure.ts';

interface StackLayer {
  name: string;
  src: string;
  x: number;
  y: number;
  opacity: number;
  visible: boolean;
}

const PLAIN = ['svg:src-over', ''];
/** What a file may hold: far more than people make, far less than would bring a server down. */
const MOST = { layers: 250, groups: 250, depth: 20, stackBytes: 400_000, seconds: 120, grows: 4, roomBytes: 64e6 };
/** px from the picture's corner that a layer may lie. */
const FARTHEST = 200_000;
const mostBytes = (limits: Limits) => limits.megapixels * 1e6 * 8 + 1e6;
/** Pixels of all layers together, as many times as a picture may have. */
const LAYERS_TO_PICTURE = 2;

const attributes = z.object({
  name: z.string().default('Layer'),
  src: z.string().default(''),
  x: z.coerce.number().int().min(-FARTHEST).max(FARTHEST).default(0),
  y: z.coerce.number().int().min(-FARTHEST).max(FARTHEST).default(0),
  opacity: z.coerce.number().min(0).max(1).default(1),
  visibility: z.string().default('visible'),
  'composite-op': z.string().default(''),
});

/** Whether a file begins like an OpenRaster file: a ZIP whose first entry is the stored `mimetype`. */
export const isOpenRaster = (head: Buffer): boolean => head.toString('latin1', 0, 4) === 'PK\x03\x04';

function open(file: Buffer, limits: Limits): Record<string, Uint8Array> {
  let bytes = 0;
  try {
    return unzipSync(file, {
      filter: (entry: UnzipFileInfo) => {
        const wanted = /^(mimetype|stack\.xml|data\/[^/]+\.png)$/i.test(entry.name);
        if (!wanted) return false;
        if (/^stack\.xml$/i.test(entry.name) && entry.originalSize > MOST.stackBytes) throw tooMany();
        bytes += entry.originalSize;
        // Layers are packed already: what grows far beyond its file is made to fill the memory.
        if (bytes > MOST.grows * file.length + MOST.roomBytes)
          throw new Refused(
            'This file holds far more than its size says. Save it again from the program that made it.',
            413,
          );
        if (bytes > mostBytes(limits))
          throw new Refused('The layers of this file are larger than a picture may be.', 413);
        return true;
      },
    });
  } catch (error) {
    if (error instanceof Refused) throw error;
    throw new Refused('The OpenRaster file is damaged or cut short. Save it again.');
  }
}

const tooMany = () =>
  new Refused(
    `This OpenRaster file has more layers than are taken in (${MOST.layers}). Merge layers that belong together and save it again.`,
    413,
  );

/** A file of the archive; nothing for names that every object knows. */
const ownOf = (files: Record<string, Uint8Array>, name: string): Uint8Array | undefined =>
  Object.hasOwn(files, name) ? files[name] : undefined;

/** Width and height of a PNG, from its header; nothing for what is none. */
const pixelsOf = (png: Uint8Array | undefined): number => {
  if (!png || png.length < 24) return 0;
  const view = new DataView(png.buffer, png.byteOffset, png.length);
  return view.getUint32(16) * view.getUint32(20);
};

/** Layers from the bottom up; groups are opened, their opacity and visibility passed on. */
function layersOf(xml: string): {
  width: number;
  height: number;
  resolution: Resolution | null;
  layers: StackLayer[];
} {
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '',
    preserveOrder: true,
    processEntities: true,
    htmlEntities: true,
  });
  if (xml.length > MOST.stackBytes) throw tooMany();
  type Node = Record<string, unknown> & { ':@'?: Record<string, string> };
  let image: Node | undefined;
  try {
    image = (parser.parse(xml) as Node[]).find((n) => 'image' in n);
  } catch {
    image = undefined;
  }
  const size = z.object({ w: z.coerce.number().int().positive(), h: z.coerce.number().int().positive() });
  const head = size.safeParse(image?.[':@']);
  if (!image || !head.success) throw new Refused('The OpenRaster file has no readable stack.xml. Save it again.');
  const layers: StackLayer[] = [];
  let groups = 0;
  const walk = (nodes: Node[], opacity: number, visible: boolean, dx: number, dy: number, depth = 0) => {
    if (depth > MOST.depth || ++groups > MOST.groups) throw tooMany();
    for (const node of [...nodes].reverse()) {
      const read = attributes.safeParse(node[':@'] ?? {});
      if (!('layer' in node) && !('stack' in node)) continue;
      if (!read.success)
        throw new Refused(
          'A layer of this OpenRaster file has a place or an opacity that cannot be read. Save it again.',
        );
      const a = read.data;
      if (!PLAIN.includes(a['composite-op']))
        throw new Refused(
          `The layer “${a.name}” is laid on by “${a['composite-op']}”, which is not done here. Merge it with what lies beneath and save again.`,
        );
      if (Math.max(Math.abs(dx + a.x), Math.abs(dy + a.y)) > FARTHEST)
        throw new Refused(`The layer “${a.name}” lies too far beside the picture. Move it and save the file again.`);
      const own = { opacity: opacity * a.opacity, visible: visible && a.visibility !== 'hidden' };
      if ('stack' in node) walk(node.stack as Node[], own.opacity, own.visible, dx + a.x, dy + a.y, depth + 1);
      else if (layers.length >= MOST.layers) throw tooMany();
      else layers.push({ name: a.name, src: a.src, x: dx + a.x, y: dy + a.y, ...own });
    }
  };
  walk(image.image as Node[], 1, true, 0, 0);
  const [x, y] = [Number(image[':@']?.xres), Number(image[':@']?.yres)];
  const resolution = usable(x, y > 0 ? y : x, 1);
  return { width: head.data.w, height: head.data.h, resolution, layers };
}

/**
 * Reads an OpenRaster file: the layer at the bottom becomes the original (laid on a transparent picture when it does
 * not fill it), those above it repair layers. Source: OpenRaster baseline specification 0.0.2.
 * @param decode reads one PNG of it
 * @throws Refused with what is wrong and what to do
 */
export async function decodeOpenRaster(
  file: Buffer,
  limits: Limits,
  decode: (png: Buffer) => Promise<Decoded>,
): Promise<Decoded> {
  const files = open(file, limits);
  if (!files['mimetype'] || strFromU8(files['mimetype']).trim() !== 'image/openraster')
    throw new Refused('This archive is no picture. Unpack it and send the pictures in it.');
  if (!files['stack.xml']) throw new Refused('The OpenRaster file has no stack.xml. Save it again.');
  const stack = layersOf(strFromU8(files['stack.xml']));
  refusePixels(stack.width, stack.height, limits);
  if (!stack.layers.length) throw new Refused('The OpenRaster file has no layers. Save it again with at least one.');
  const megapixels = stack.layers.reduce((sum, layer) => sum + pixelsOf(ownOf(files, layer.src)), 0) / 1e6;
  const most = LAYERS_TO_PICTURE * limits.megapixels;
  if (megapixels > most)
    throw new Refused(
      `The layers of this file have ${megapixels.toFixed(0)} megapixels together; at most ${most} are taken. Merge layers, or raise TERSUM_MAX_MEGAPIXELS.`,
      413,
    );
  const started = Date.now();
  const pixels = async (layer: StackLayer) => {
    if (Date.now() - started > MOST.seconds * 1000)
      throw new Refused(
        `The layers of this file took longer than ${MOST.seconds} s to read. Merge layers and save it again.`,
        413,
      );
    const png = ownOf(files, layer.src);
    if (!png) throw new Refused(`The layer “${layer.name}” has no pixels in this file. Save it again.`);
    return decode(Buffer.from(png));
  };
  const bottom = await pixels(stack.layers[0]);
  const whole = wholePicture(bottom.raster, stack);
  const layers: GivenLayer[] = [];
  for (const layer of stack.layers.slice(1)) {
    const { raster } = await pixels(layer);
    const { name, opacity, visible } = layer;
    layers.push({
      name: plainName(120).safeParse(name.slice(0, 120)).data ?? 'Layer',
      opacity,
      visible,
      patch: asPatch(raster, whole, layer),
    });
  }
  return { ...bottom, raster: whole, resolution: bottom.resolution ?? stack.resolution, format: 'openraster', layers };
}

function wholePicture(bottom: Raster, stack: { width: number; height: number; layers: StackLayer[] }): Raster {
  const { x, y, opacity, visible } = stack.layers[0];
  const { width, height } = stack;
  const fits = x === 0 && y === 0 && bottom.width === width && bottom.height === height;
  if (fits && opacity === 1 && visible) return bottom;
  const channels = colourChannels(bottom.channels) === 1 ? 2 : 4;
  const data = allocateSamples(width * height * channels, bottom.depth, true);
  const whole = createRaster(width, height, channels, bottom.depth, data);
  if (!visible) return whole;
  const patch = asPatch(bottom, whole, { x, y });
  compositeOver(whole, { x: 0, y: 0 }, patch, opacity);
  for (let v = Math.max(0, y); v < Math.min(height, y + patch.height); v++) {
    for (let u = Math.max(0, x); u < Math.min(width, x + patch.width); u++) {
      const alpha = patch.data[((v - y) * patch.width + u - x) * channels + channels - 1];
      data[(v * width + u) * channels + channels - 1] = Math.round(alpha * opacity);
    }
  }
  return whole;
}

/** A layer's pixels as a patch of the picture's kind; a grey layer on a colour picture is spread over its channels. */
function asPatch(raster: Raster, picture: Raster, at: { x: number; y: number }): Patch {
  const colours = colourChannels(picture.channels);
  const own = colourChannels(raster.channels);
  const channels: 2 | 4 = colours === 1 ? 2 : 4;
  const top = fullScale(picture.depth);
  const unit = top / fullScale(raster.depth);
  const data = allocateSamples(raster.width * raster.height * channels, picture.depth, true);
  const alphaAt = raster.channels > own ? own : -1;
  for (let i = 0, from = 0, to = 0; i < raster.width * raster.height; i++, from += raster.channels, to += channels) {
    const d = raster.data;
    for (let c = 0; c < colours; c++) {
      const value =
        colours === 1 && own === 3
          ? 0.2126 * d[from] + 0.7152 * d[from + 1] + 0.0722 * d[from + 2]
          : d[from + (own === 1 ? 0 : c)];
      data[to + c] = Math.round(value * unit);
    }
    data[to + colours] = alphaAt < 0 ? top : Math.round(d[from + alphaAt] * unit);
  }
  return { x: at.x, y: at.y, width: raster.width, height: raster.height, channels, depth: picture.depth, data };
}
