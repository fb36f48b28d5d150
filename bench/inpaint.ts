// Both diffusion methods of a general library, to measure fills against.
import { createRequire } from 'node:module';
import type { Raster } from '../src/core/raster/raster.ts';

// eslint-disable-next-line @typescript-eslint/no-explicit-any
type OpenCv = any;

const cv: OpenCv = createRequire(import.meta.url)('@techstark/opencv-js');
// The module has a `then` of its own, so it must never be what a promise resolves to.
await new Promise<void>((resolve) => (cv.Mat ? resolve() : (cv.onRuntimeInitialized = () => resolve())));

/** The picture with its cover filled by the library, 3 px around each pixel: Telea 2004, or Bertalmio et al. 2001. */
export function inpaint(picture: Raster, cover: Uint8Array, method: 'INPAINT_TELEA' | 'INPAINT_NS'): Uint8Array {
  const src = cv.matFromArray(picture.height, picture.width, cv.CV_8UC3, picture.data);
  const mask = cv.matFromArray(picture.height, picture.width, cv.CV_8UC1, cover);
  const dst = new cv.Mat();
  cv.inpaint(src, mask, dst, 3, cv[method]);
  const out = new Uint8Array(dst.data);
  src.delete();
  mask.delete();
  dst.delete();
  return out;
}
