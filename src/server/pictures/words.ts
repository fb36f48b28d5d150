import type { OpenPicture } from './open-picture.ts';

/** What there is to say when some of many repairs would still be seen. */
export const stillSeen = (made: number, showing: number): string =>
  `${made} ${made === 1 ? 'repair' : 'repairs'} made. ${showing === made && made > 1 ? 'All' : showing} would still show. Check lists them, worst first.`;

/** Faults by their numbers. */
export function faultsOf(picture: OpenPicture, faultIds: string[]): string {
  const numbers = picture.document.faults.filter((f) => faultIds.includes(f.id)).map((f) => f.number);
  return `fault ${numbers.join(', ')}`;
}
