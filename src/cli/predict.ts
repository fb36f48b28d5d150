import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { allocateSamples, crop, cropPlane, isEmpty, paste, type Raster } from '../core/raster/raster.ts';
import { workFrame } from '../core/repair/fill/region.ts';
import { fillThin } from '../core/repair/fill/thin.ts';

interface Share {
  picture: Raster;
  cover: Uint8Array;
  output: Raster;
  grain: boolean;
  index: number;
  of: number;
}

/** Predicts the thin places with several threads, which divide the blocks; the result is the same with any number. */
export async function predictInThreads(
  picture: Raster,
  cover: Uint8Array,
  grain: boolean,
  threads: number,
): Promise<Raster> {
  const frame = workFrame(cover, picture.width, picture.height);
  if (isEmpty(frame)) return picture;
  const part = crop(picture, frame);
  const data = allocateSamples(part.data.length, part.depth, true);
  data.set(part.data);
  const output: Raster = { ...part, data };
  const shared = new Uint8Array(new SharedArrayBuffer(frame.width * frame.height));
  shared.set(cropPlane(cover, picture.width, frame));
  await Promise.all(
    Array.from({ length: threads }, (_, index) => {
      const share: Share = { picture: part, cover: shared, output, grain, index, of: threads };
      return new Promise<void>((resolve, reject) => {
        const worker = new Worker(new URL('./predict.js', import.meta.url), { workerData: share });
        worker.on('message', () => resolve());
        worker.on('error', reject);
      });
    }),
  );
  const whole: Raster = { ...picture, data: picture.data.slice() };
  paste(output, whole, frame);
  return whole;
}

if (!isMainThread && (workerData as Share | undefined)?.cover) {
  const { picture, cover, output, grain, index, of } = workerData as Share;
  fillThin(picture, cover, output, { grain, share: { index, of } });
  parentPort!.postMessage('done');
}
