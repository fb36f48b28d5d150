import { createRequire } from 'node:module';
import type { OpenCv } from '../core/join/features.ts';

/**
 * The general-purpose library that finds features, once it is ready. It is held in an object: it has a `then` of its own that answers
 * with itself, so that a promise of it never ends.
 */
export async function openCv(): Promise<{ cv: OpenCv }> {
  const cv = createRequire(import.meta.url)('@techstark/opencv-js') as OpenCv & { onRuntimeInitialized?: () => void };
  await new Promise<void>((resolve) => {
    // Until it is ready it has nothing of its own yet.
    if (Object.hasOwn(cv, 'Mat')) resolve();
    else cv.onRuntimeInitialized = () => resolve();
  });
  return { cv };
}
