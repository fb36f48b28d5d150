import type { PictureState, RepairStatus } from '../../contract/api.ts';
import { findingsOf } from '../../core/check/check.ts';
import type { Finding, Sign } from '../../core/check/finding.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import { longSideOf } from './canvas.ts';

const told = new WeakMap<Sign[], { longSide: number; viewing: Viewing; findings: Finding[] }>();

/** What checks object to in a try as the picture will be seen, worst first; undefined until it was checked. */
export function findingsOfTry(
  status: RepairStatus | undefined,
  tryId: string,
  state: PictureState,
  viewing: Viewing,
): Finding[] | undefined {
  const signs = status?.tries[tryId]?.signs;
  if (!signs) return undefined;
  const longSide = longSideOf(state);
  const known = told.get(signs);
  const same = known?.longSide === longSide && known.viewing.longSideMm === viewing.longSideMm;
  if (known && same && known.viewing.distanceMm === viewing.distanceMm) return known.findings;
  const findings = findingsOf(signs, longSide, viewing);
  told.set(signs, { longSide, viewing, findings });
  return findings;
}
