import type { RepairStatus } from '../../../contract/api.ts';
import type { Repair } from '../../../contract/document.ts';

/** How far a repair is, or how it was done, in a sentence. */
export function wordsOf(status: RepairStatus | undefined, repair: Repair): string | undefined {
  if (status?.state === 'failed') return status.message;
  if (status?.state === 'working') return 'Being laid on…';
  if (status?.state === 'stale') return 'Being made again: what it samples has changed.';
  return status?.tries[repair.chosen]?.reason;
}
