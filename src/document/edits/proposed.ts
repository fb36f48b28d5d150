import type { Fault } from '../../contract/document.ts';
import { kindFacts } from '../../core/faults/kinds.ts';
import type { Shape } from '../../core/mask/shapes.ts';

/**
 * How a fault is treated where nobody says otherwise: what lets the picture through is lifted, and so is the band along a line where
 * one was measured when it was marked.
 */
export function methodOf({ advice, kind }: Pick<Fault, 'advice' | 'kind'>): 'fill' | 'lift' {
  const { lifted, banded } = kindFacts(kind);
  return lifted || (banded && advice?.method === 'lift') ? 'lift' : 'fill';
}

/** What of a fault that is lifted cannot be read any more. */
export const lostOf = ({ advice, kind }: Pick<Fault, 'advice' | 'kind'>): Shape[] =>
  (kindFacts(kind).banded && advice?.lost) || [];

/** Edges that are proposed to run on inside a fault that is filled. */
export const edgesOf = ({ advice, kind }: Pick<Fault, 'advice' | 'kind'>): Shape[] =>
  (kind === 'tear' && advice?.edges) || [];

/** What of a fault says nothing of the picture: all of it, or where it lets the picture through only what is gone. */
export const hiddenBy = (fault: Pick<Fault, 'advice' | 'kind' | 'shapes'>): Shape[] =>
  methodOf(fault) === 'lift' ? lostOf(fault) : fault.shapes;
