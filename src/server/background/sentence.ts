import { randomBytes } from 'node:crypto';
import { Refused } from '../../contract/refused.ts';
import { saysFull } from '../store/disk.ts';

/**
 * What there is to say to people about work in the background that failed. What was meant for them is said as it is; what our own
 * mistakes and libraries say goes to the log, under a number that is told.
 */
export function sentenceFor(error: unknown): string {
  if (error instanceof Refused) return error.message;
  if (saysFull(error)) return 'The disk is full. Delete a picture or a job that is done, or make room on it.';
  const entry = randomBytes(3).toString('hex');
  console.error(`Error ${entry}:`, error);
  return `This failed through a mistake in Tersum, and nothing else was changed. Try another way, such as Fill or Copy. The server’s log tells more under ${entry}.`;
}
