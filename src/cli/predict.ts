import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import type { FillRegion } from '../core/repair/fill/fill-region.ts';
import { predictShare } from '../core/repair/fill/region.ts';
import type { FillSettings } from '../core/repair/fill/settings.ts';
import type { Piece, Share } from '../core/repair/method.ts';

interface Work {
  region: FillRegion;
  settings: FillSettings;
  share: Share;
}

/** Predicts the thin places of a region with several threads; the result is the same with any number of them. */
export async function predictInThreads(region: FillRegion, settings: FillSettings, threads: number): Promise<Piece[]> {
  const shares = Array.from({ length: threads }, (_, index) => {
    const work: Work = { region, settings, share: { index, of: threads } };
    return new Promise<Piece[]>((resolve, reject) => {
      const worker = new Worker(new URL('./predict.js', import.meta.url), { workerData: work });
      worker.on('message', resolve);
      worker.on('error', reject);
    });
  });
  return (await Promise.all(shares)).flat();
}

if (!isMainThread && (workerData as Work | undefined)?.share) {
  const { region, settings, share } = workerData as Work;
  parentPort!.postMessage(predictShare(region, settings, share));
}
