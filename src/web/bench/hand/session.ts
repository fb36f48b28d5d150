import type { PictureState } from '../../../contract/api.ts';
import type { Fault, HandSpec, Repair } from '../../../contract/document.ts';
import type { Stroke } from '../../../core/mask/strokes.ts';
import { handSpec } from './settings.ts';

/** Strokes painted one after another onto one repair. */
export interface Session {
  key: string;
  repairId: string | null;
  /** what a repair that is not placed yet will be called */
  asked: string | null;
  strokes: Stroke[];
  faultId: string | null;
  /** strokes that the server has not answered yet */
  pending: number;
}

/** Names what strokes of one session have in common: method, settings and donor. */
export function keyOf(spec: HandSpec): string {
  if (spec.method === 'shade') return JSON.stringify(['shade', spec.effect, spec.stops, spec.range]);
  if (!('strokes' in spec)) return '';
  // A donor that returns begins anew with each stroke: its place on the picture does not matter.
  const donor = spec.donor && { ...spec.donor, at: spec.donor.travels ? spec.donor.at : null };
  return JSON.stringify([spec.method, donor]);
}

/** Strokes of a repair by hand along strokes; none of other methods. */
function strokesOf(repair: Repair | undefined): Stroke[] {
  const spec = handSpec(repair);
  return spec && 'strokes' in spec ? [...spec.strokes] : [];
}

/** A new session, on the chosen repair where that is alike. */
function begun(key: string, fault: Fault | undefined, repair: Repair | undefined): Session {
  const own = handSpec(repair);
  const onto = own && keyOf(own) === key ? repair : undefined;
  return {
    key,
    repairId: onto?.id ?? null,
    asked: null,
    strokes: strokesOf(onto),
    faultId: fault?.id ?? null,
    pending: 0,
  };
}

/** The session that a stroke with this spec belongs to: the present one, one on the chosen repair, or a new one. */
export function sessionOn(
  now: Session | null,
  spec: HandSpec,
  state: PictureState | undefined,
  fault: Fault | undefined,
  repair: Repair | undefined,
): Session {
  const key = keyOf(spec);
  if (now?.key !== key) return begun(key, fault, repair);
  if (now.pending > 0) return now;
  const known = state?.document.repairs.find((r) => r.id === now.repairId);
  if (!known || now.faultId !== (fault?.id ?? null)) return begun(key, fault, repair);
  now.strokes = strokesOf(known);
  return now;
}
