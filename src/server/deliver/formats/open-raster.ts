import { strToU8, zipSync, type Zippable } from 'fflate';
import sharp from 'sharp';
import { encode } from '../../../codec/encode.ts';
import { tiffEnvelope } from '../../../codec/envelope.ts';
import { colourChannels, createRaster, fullScale, type Raster } from '../../../core/raster/raster.ts';
import type { Format } from '../format.ts';
import type { ExportLayer } from '../layers.ts';

/** One layer's repairs as a single patch-like raster over the whole picture. */
function flattenLayer(original: Raster, layer: ExportLayer): { raster: Raster; x: number; y: number } | null {
  const shown = layer.repairs.filter((r) => r.visible && r.strength > 0);
  if (!shown.length) return null;
  const x = Math.min(...shown.map((r) => r.patch.x));
  const y = Math.min(...shown.map((r) => r.patch.y));
  const right = Math.max(...shown.map((r) => r.patch.x + r.patch.width));
  const bottom = Math.max(...shown.map((r) => r.patch.y + r.patch.height));
  const channels = shown[0].patch.channels;
  const raster = createRaster(right - x, bottom - y, channels, original.depth);
  const colours = channels - 1;
  const top = fullScale(original.depth);
  for (const { patch, strength } of shown) {
    for (let v = 0; v < patch.height; v++) {
      for (let u = 0; u < patch.width; u++) {
        const from = (v * patch.width + u) * channels;
        const to = ((patch.y - y + v) * raster.width + patch.x - x + u) * channels;
        const over = (patch.data[from + colours] / top) * strength;
        if (over <= 0) continue;
        const under = raster.data[to + colours] / top;
        const alpha = over + under * (1 - over);
        for (let c = 0; c < colours; c++) {
          raster.data[to + c] = Math.round(
            (patch.data[from + c] * over + raster.data[to + c] * under * (1 - over)) / alpha,
          );
        }
        raster.data[to + colours] = Math.round(alpha * top);
      }
    }
  }
  return { raster, x, y };
}

/** Characters that XML 1.0 does not allow, whoever let them in. */
const NOT_XML =
  // eslint-disable-next-line no-control-regex
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;
const escape = (text: string) => text.replace(NOT_XML, '').replace(/[<>&"']/g, (c) => `&#${c.charCodeAt(0)};`);

/**
 * An OpenRaster file: the original at the bottom, a layer a repair layer, the merged picture and a thumbnail.
 * All of it lies as it is worked on: levelling and cutting act on flat files.
 * Source: OpenRaster baseline specification 0.0.2 (mimetype first and stored; stack.xml lists layers from the top).
 */
export const ora: Format = async ({ original, canvas, layers, attach, progress, ...picture }) => {
  const merged = picture.onCanvas();
  const stored = { level: 0 } as const;
  const files: Zippable = { mimetype: [strToU8('image/openraster'), stored] };
  const rows: string[] = [];
  files['data/original.png'] = [await encode(original, 'png', attach), stored];
  rows.unshift(
    `<layer name="Original" src="data/original.png" x="${-canvas.x}" y="${-canvas.y}" opacity="1" visibility="visible" />`,
  );
  for (let i = 0; i < layers.length; i++) {
    const layer = layers[i];
    const flat = flattenLayer(original, layer) ?? {
      raster: createRaster(1, 1, colourChannels(original.channels) === 1 ? 2 : 4, original.depth),
      x: canvas.x,
      y: canvas.y,
    };
    const src = `data/layer${String(i + 1).padStart(3, '0')}.png`;
    files[src] = [await encode(flat.raster, 'png', { icc: attach.icc }), stored];
    rows.unshift(
      `<layer name="${escape(layer.name)}" src="${src}" x="${flat.x - canvas.x}" y="${flat.y - canvas.y}" opacity="${Math.round(layer.opacity * 1000) / 1000}" visibility="${layer.visible ? 'visible' : 'hidden'}" />`,
    );
    progress(0.3 + (0.4 * (i + 1)) / layers.length);
  }
  const { resolution } = attach;
  const ppi = resolution ? ` xres="${Math.round(resolution.x)}" yres="${Math.round(resolution.y)}"` : '';
  files['stack.xml'] = strToU8(
    `<?xml version="1.0" encoding="UTF-8"?>\n<image version="0.0.2" w="${merged.width}" h="${merged.height}"${ppi}>\n  <stack>\n    ${rows.join('\n    ')}\n  </stack>\n</image>\n`,
  );
  files['mergedimage.png'] = [await encode(merged, 'png', attach), stored];
  files['Thumbnails/thumbnail.png'] = [
    await sharp(tiffEnvelope(merged, { icc: attach.icc }))
      .toColourspace('srgb')
      .resize({ width: 256, height: 256, fit: 'inside' })
      .png()
      .toBuffer(),
    stored,
  ];
  return zipSync(files);
};
