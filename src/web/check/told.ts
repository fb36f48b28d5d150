import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import { REMEDIES, SEEN, type Finding } from '../../core/check/finding.ts';
import { atDelivery } from '../../core/frame/delivery.ts';
import { minutesOfArc, type Viewing } from '../../core/frame/visibility.ts';
import { longSideOf } from '../lib/canvas.ts';
import { findingsOfTry } from '../lib/findings.ts';
import { factsOf, sizeOfFault } from '../worklist/rows.ts';

/** A finding with the fault, and the repair, that it belongs to. */
export interface Told extends Finding {
  /** names it while it stays what it is */
  key: string;
  fault?: Fault;
  repairId?: string;
  /** what is done about it, in a sentence */
  advice: string;
}

/** Severity of what is marked and still there: somebody marked it, and it is large enough to be seen. */
const OPEN = 0.6;
/** Severity of a repair that is there and does not show. */
const NOT_SHOWN = 0.7;
/** Minutes of arc below which nobody sees a fault. */
const RESOLVED = 1;

/** What is unfinished of a picture: open faults that would be seen, and repairs that are not, or not as they should be, shown. */
function unfinished(state: PictureState, viewing: Viewing): Told[] {
  const { document, statuses } = state;
  const mmOf = (px: number) => atDelivery(px, longSideOf(state), viewing);
  const of = (
    fault: Fault | undefined,
    severity: number,
    unit: string,
    figure: number,
    advice: string,
    repairId?: string,
  ) =>
    fault
      ? [
          {
            kind: 'unfinished' as const,
            key: `u-${repairId ?? fault.id}`,
            box: factsOf(fault, state).bounds,
            figure,
            unit,
            severity,
            remedy: 'treat' as const,
            fault,
            repairId,
            advice,
          },
        ]
      : [];
  const open = document.faults.flatMap((fault) => {
    if (fault.state !== 'open') return [];
    const mm = mmOf(sizeOfFault(fault, state));
    if (minutesOfArc(mm, viewing.distanceMm) < RESOLVED) return [];
    return of(fault, OPEN, 'mm at delivery, still open', Number(mm.toPrecision(2)), REMEDIES.treat);
  });
  const hidden = document.repairs.flatMap((repair) => {
    const fault = document.faults.find((f) => repair.faultIds.includes(f.id));
    const layer = document.layers.find((l) => l.id === repair.layerId);
    const status = statuses.find((s) => s.id === repair.id);
    if (fault?.state !== 'treated') return [];
    const shown = repair.visible && layer?.visible !== false ? repair.strength * (layer?.opacity ?? 1) : 0;
    if (shown === 0)
      return of(fault, NOT_SHOWN, '% strength: it is not shown', 0, 'Show it again, or remove it.', repair.id);
    if (status?.state === 'failed')
      return of(fault, NOT_SHOWN, 'renderings', 0, status.message ?? REMEDIES.update, repair.id);
    return [];
  });
  return [...open, ...hidden];
}

/** What a picture's check tells, worst first, and how far it has come. */
export interface Checked {
  /** would be seen as the picture is delivered, and is not accepted */
  seen: Told[];
  /** can hardly be seen */
  faint: Told[];
  /** would be seen, and was accepted as it is */
  accepted: Told[];
  /** repairs that are not measured yet */
  waiting: number;
}

/** Gathers what checks object to in everything that is shown of a picture. */
export function toldOf(state: PictureState, viewing: Viewing): Checked {
  const { document, statuses } = state;
  const byId = new Map(statuses.map((s) => [s.id, s]));
  const faults = new Map(document.faults.map((f) => [f.id, f]));
  let waiting = 0;
  const all = document.repairs.flatMap((repair): Told[] => {
    const layer = document.layers.find((l) => l.id === repair.layerId);
    if (!repair.visible || repair.strength === 0 || layer?.visible === false) return [];
    const status = byId.get(repair.id);
    const findings = findingsOfTry(status, repair.chosen, state, viewing);
    if (!findings && status?.state !== 'failed') waiting++;
    const fault = repair.faultIds.map((id) => faults.get(id)).find((f) => f !== undefined);
    return (findings ?? []).map((finding, n) => ({
      ...finding,
      key: `${repair.id}-${repair.chosen}-${n}`,
      fault,
      repairId: repair.id,
      advice: REMEDIES[finding.remedy],
    }));
  });
  const told = [...unfinished(state, viewing), ...all].sort((a, b) => b.severity - a.severity);
  const isAccepted = (t: Told) => t.fault?.state === 'accepted';
  return {
    seen: told.filter((t) => t.severity >= SEEN && !isAccepted(t)),
    faint: told.filter((t) => t.severity < SEEN && !isAccepted(t)),
    accepted: told.filter((t) => t.severity >= SEEN && isAccepted(t)),
    waiting,
  };
}
