import type { Fault } from '../../contract/document.ts';
import { kindFacts } from '../../core/faults/kinds.ts';
import type { Shape } from '../../core/mask/shapes.ts';

/** How a fault is treated where nobody says otherwise: as was proposed when it was marked, or as is usual for its kind. */
export const methodOf = ({ advice, kind }: Pick<Fault, 'advice' | 'kind'>): 'fill' | 'lift' =>
  advice ? (advice.method ?? 'fill') : kindFacts(kind).lifted ? 'lift' : 'fill';

/** What of a fault says nothing of the picture: all of it, or where it lets the picture through only what is gone. */
export const hiddenBy = (fault: Pick<Fault, 'advice' | 'kind' | 'shapes'>): Shape[] =>
  methodOf(fault) === 'lift' ? (fault.advice?.lost ?? []) : fault.shapes;
