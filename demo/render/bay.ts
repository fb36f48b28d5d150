import { join } from 'node:path';
import sharp from 'sharp';
import { framesOf } from '../../bench/frames-of.ts';
import { randomiser, readPicture } from '../../bench/planted.ts';

/** Three frames of the bay, from left to right, as somebody takes them by hand: turned, leaning, darker to the corners. Their truth is the headland's. */
export async function renderBay(folder: string): Promise<void> {
  const truth = await readPicture(join(folder, 'headland-truth.jpg'));
  const { frames } = framesOf(truth, randomiser(11), 3, 1500);
  for (const [n, { raster }] of frames.entries()) {
    const { width, height, data } = raster;
    await sharp(Buffer.from(data), { raw: { width, height, channels: 3 } })
      .withMetadata({ density: 300 })
      .jpeg({ quality: 92, chromaSubsampling: '4:4:4' })
      .toFile(join(folder, `bay-${n + 1}.jpg`));
  }
}
