import { kindFacts, type FaultKind } from '../faults/kinds.ts';

/**
 * Whether a job's policy lets a kind of fault be repaired. A documentary job leaves the scene as it was: only dust,
 * scratches and marks of the print or the sensor may go (common practice).
 */
export const mayRepair = (policy: string, kind: FaultKind): boolean =>
  policy !== 'documentary' || !kindFacts(kind).changesScene;
