// Renders repairs while they are being made, with the same core that commits them on the server. Pixels beneath come
// from the server in blocks, when they are needed for the first time.
import type { Point } from '../../../core/mask/shapes.ts';
import { BlockPicture } from '../../../core/raster/blocks.ts';
import { boxOf, growWithin, isEmpty, shiftBox, type Box, type Raster } from '../../../core/raster/raster.ts';
import { copyPart, strokesReadBox } from '../../../core/repair/hand/copy.ts';
import { compositeOver } from '../../../core/raster/patch.ts';
import { readBox, renderRepair, shiftSpec } from '../../../core/repair/registry.ts';
import { VIEWS } from '../../../contract/addresses.ts';
import { addressOf } from '../../../contract/endpoint.ts';
import type { HandSpec } from '../../../contract/document.ts';

/** What the worker is asked. */
export type ToPreview =
  | {
      type: 'picture';
      id: string;
      /** source and canvas, px of the base */
      area: Box;
      layer: string | null;
      repair: string | null;
    }
  | {
      type: 'render';
      n: number;
      spec: HandSpec;
      /** for a copy: only this part */
      part: Box | null;
      strength: number;
    };

/** What it answers. */
export type FromPreview =
  | { type: 'rendered'; n: number; box: Box; rgba: Uint8ClampedArray<ArrayBuffer> }
  | { type: 'failed'; n: number; message: string };

/** Most pixels a preview reads at once; beyond it waits for the server. */
const MOST = 12e6;
const SIDE = 2048;

/** what lies beneath; it begins at 0, 0, wherever the area's corner lies */
let picture: BlockPicture | undefined;
let corner: Point = [0, 0];
/** which picture, and beneath what of it */
let at: { id: string; beneath: { repair?: string; layer?: string } } = { id: '', beneath: {} };
let coming: Promise<unknown> = Promise.resolve();

/** Brings the blocks of a box, several requests for a large one. */
async function bring(from: BlockPicture, box: Box): Promise<void> {
  const wanted = from.missing(box);
  if (isEmpty(wanted)) return;
  if (wanted.width * wanted.height > MOST) throw new Error('Too large to be shown while it is moved.');
  for (let y = wanted.y; y < wanted.y + wanted.height; y += SIDE) {
    for (let x = wanted.x; x < wanted.x + wanted.width; x += SIDE) {
      const part: Box = {
        x,
        y,
        width: Math.min(SIDE, wanted.x + wanted.width - x),
        height: Math.min(SIDE, wanted.y + wanted.height - y),
      };
      const answer = await fetch(
        addressOf(VIEWS.pixels, { id: at.id }, { ...shiftBox(part, ...corner), ...at.beneath }),
      );
      if (!answer.ok) throw new Error('The pixels beneath could not be read.');
      const about = JSON.parse(answer.headers.get('X-Raster')!) as Omit<Raster, 'data'>;
      const bytes = await answer.arrayBuffer();
      from.put(part, { ...about, data: about.depth === 16 ? new Uint16Array(bytes) : new Uint8Array(bytes) });
    }
  }
}

/** Brings blocks one request after another, so that nothing is asked for twice. */
function ready(box: Box): Promise<void> {
  const from = picture!;
  const mine = coming.then(() => bring(from, box));
  coming = mine.catch(() => undefined);
  return mine;
}

function toScreen({ width, height, channels, depth, data }: Raster): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(width * height * 4);
  const shift = depth === 16 ? 8 : 0;
  const grey = channels <= 2;
  for (let i = 0, o = 0, p = 0; i < width * height; i++, o += 4, p += channels) {
    out[o] = data[p] >> shift;
    out[o + 1] = grey ? out[o] : data[p + 1] >> shift;
    out[o + 2] = grey ? out[o] : data[p + 2] >> shift;
    out[o + 3] = 255;
  }
  return out;
}

async function render({ n, strength, ...asked }: Extract<ToPreview, { type: 'render' }>) {
  const from = picture!;
  const [left, top] = corner;
  const spec = shiftSpec(asked.spec, -left, -top);
  const part = asked.part && shiftBox(asked.part, -left, -top);
  const { width, height } = from;
  const needed =
    spec.method === 'copy' && part
      ? strokesReadBox(spec.strokes, spec.donor, width, height, part)
      : readBox(spec, boxOf(from));
  if (!isEmpty(needed)) await ready(growWithin(needed, 1, width, height));
  if (picture !== from) throw new Error('Another picture or place was begun meanwhile.');
  const patch = spec.method === 'copy' && part ? copyPart(from, spec, part) : renderRepair(from, spec).patch;
  const box = { x: patch.x, y: patch.y, width: patch.width, height: patch.height };
  await ready(box);
  const seen = from.read(box);
  compositeOver(seen, box, patch, strength);
  const rgba = toScreen(seen);
  const answer: FromPreview = { type: 'rendered', n, box: shiftBox(box, left, top), rgba };
  self.postMessage(answer, { transfer: [rgba.buffer] });
}

self.onmessage = ({ data }: MessageEvent<ToPreview>) => {
  if (data.type === 'picture') {
    picture = new BlockPicture(data.area.width, data.area.height);
    corner = [data.area.x, data.area.y];
    const beneath = data.repair ? { repair: data.repair } : data.layer ? { layer: data.layer } : {};
    at = { id: data.id, beneath };
  } else {
    render(data).catch((error: Error) => {
      const answer: FromPreview = { type: 'failed', n: data.n, message: error.message };
      self.postMessage(answer);
    });
  }
};
