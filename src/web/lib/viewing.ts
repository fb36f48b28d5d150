import { usualDistance, type Viewing } from '../../core/frame/visibility.ts';
import type { Job } from '../../contract/studio.ts';

/** mm of the long side where a job does not say: a print of A4. */
const USUAL_PRINT = 300;

/** How a job's pictures are looked at when they are delivered. */
export function viewingOf(job: Job | undefined): Viewing {
  const longSideMm = job?.longSideMm ?? USUAL_PRINT;
  return { longSideMm, distanceMm: job?.viewingMm ?? usualDistance(longSideMm) };
}
