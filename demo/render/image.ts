import sharp from 'sharp';
import { gauss } from './noise.ts';

/** A picture in the making: linear light, three floats a pixel, 0…1 and above. */
export interface Scene {
  width: number;
  height: number;
  rgb: Float32Array;
}

export const createScene = (width: number, height: number): Scene => ({
  width,
  height,
  rgb: new Float32Array(width * height * 3),
});

const toDisplay = (v: number) => {
  const t = Math.max(0, v);
  const film = t < 0.8 ? t : 0.8 + 0.2 * (1 - Math.exp(-(t - 0.8) / 0.2));
  return film <= 0.0031308 ? 12.92 * film : 1.055 * film ** (1 / 2.4) - 0.055;
};

/** Soft lens: blends in a Gaussian blur of `sigma` px. */
export async function toBytes(scene: Scene): Promise<Buffer> {
  const out = Buffer.alloc(scene.rgb.length);
  for (let i = 0; i < out.length; i++) out[i] = Math.max(0, Math.min(255, Math.round(255 * toDisplay(scene.rgb[i]))));
  return out;
}

/** Lays drawings (SVG, sized like the picture) over display bytes, each as sharp as the lens leaves it. */
export async function drawOver(bytes: Buffer, width: number, height: number, svg: string, blur = 0): Promise<Buffer> {
  let layer = sharp(
    Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${svg}</svg>`),
    { limitInputPixels: false },
  ).ensureAlpha();
  if (blur > 0.3) layer = layer.blur(blur);
  const input = await layer.png().toBuffer();
  return sharp(bytes, { raw: { width, height, channels: 3 } })
    .composite([{ input }])
    .removeAlpha()
    .raw()
    .toBuffer();
}

/** Blurs like the lens, then adds noise that grows with the square root of light, the same for the same seed. */
export async function expose(
  bytes: Buffer,
  width: number,
  height: number,
  { lens, noise, seed, grain = 0 }: { lens: number; noise: number; seed: number; grain?: number },
): Promise<Buffer> {
  const soft = await sharp(bytes, { raw: { width, height, channels: 3 } })
    .blur(lens)
    .raw()
    .toBuffer();
  const out = Buffer.alloc(soft.length);
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const shared =
        gauss(x, y, seed) * 0.7 +
        (grain ? grain * (gauss(x >> 1, y >> 1, seed + 40) + gauss(x, y >> 1, seed + 41) * 0.6) : 0);
      for (let c = 0; c < 3; c++, i++) {
        const v = soft[i];
        const s = noise * (0.4 + 0.6 * Math.sqrt(v / 255));
        out[i] = Math.max(0, Math.min(255, Math.round(v + s * (shared + 0.5 * gauss(x, y, seed + 2 + c * 2)))));
      }
    }
  }
  return out;
}

export async function save(
  bytes: Buffer,
  width: number,
  height: number,
  file: string,
  quality: number,
  ppi: number,
): Promise<void> {
  await sharp(bytes, { raw: { width, height, channels: 3 } })
    .withMetadata({ density: ppi })
    .jpeg({ quality, chromaSubsampling: '4:2:0' })
    .toFile(file);
}
