import { useState } from 'react';
import type { PictureState } from '../../contract/api.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import type { StripSpec } from '../../core/repair/spec.ts';
import { depthAt, PROFILES, type ProfileName } from '../../core/repair/strip/profile.ts';
import { isStrip } from '../../document/edits/repairs.ts';
import type { Edits } from '../lib/edits.ts';

/** How a strip is drawn: its lower edge, its height at both ends, and how it looks. */
export interface StripDrawn {
  from: Point;
  to: Point;
  left: number;
  right: number;
  profile: ProfileName | 'own';
  own: Point[];
  relief: number;
  stops: number;
  shadow: number;
}

/** Share of a picture's height that a strip has at first. Common practice: a skirting is low. */
const HEIGHT = 0.05;
/** Places of a free profile that can be moved. */
export const HANDLES = 9;

const handlesOf = (profile: readonly Point[]): Point[] =>
  Array.from({ length: HANDLES }, (_, k) => [k / (HANDLES - 1), depthAt(profile, k / (HANDLES - 1))]);
export const pointsOf = (name: ProfileName): Point[] => PROFILES[name].map(([t, d]): Point => [t, d]);

/** The corners of a strip: its ends stand upright on its lower edge. */
export function stripCorners({
  from,
  to,
  left,
  right,
}: Pick<StripDrawn, 'from' | 'to' | 'left' | 'right'>): StripSpec['corners'] {
  const [a, b] = from[0] <= to[0] ? [from, to] : [to, from];
  return [[a[0], a[1] - left], [b[0], b[1] - right], b, a];
}

/** What a spec was drawn as. */
export function drawnOf({ corners: [a, b, c, d], profile, relief, stops, shadow }: StripSpec): StripDrawn {
  const name = (Object.keys(PROFILES) as ProfileName[]).find(
    (n) => JSON.stringify(pointsOf(n)) === JSON.stringify(profile),
  );
  return {
    from: d,
    to: c,
    left: d[1] - a[1],
    right: c[1] - b[1],
    profile: name ?? 'own',
    own: handlesOf(profile),
    relief,
    stops,
    shadow,
  };
}

/** The strip of a picture: as it lies, or as it is being drawn. */
export function useStrip(state: PictureState, edits: Edits, guard: Shape[]) {
  const repair = state.document.repairs.find(isStrip);
  const spec = repair?.tries.find((t) => t.id === repair.chosen)?.spec;
  const [own, setOwn] = useState<StripDrawn | null>(null);
  const drawn = own ?? (spec?.method === 'strip' ? drawnOf(spec) : null);
  const set = (next: Partial<StripDrawn>) => drawn && setOwn({ ...drawn, ...next });
  const lay = async () => {
    if (!drawn) return;
    const profile = drawn.profile === 'own' ? drawn.own : pointsOf(drawn.profile);
    const { relief, stops, shadow } = drawn;
    const made = { method: 'strip' as const, corners: stripCorners(drawn), profile, relief, stops, shadow, guard };
    if (repair) await edits.edit({ type: 'changeSpec', id: repair.id, spec: made });
    else await edits.edit({ type: 'placeRepair', spec: made, faultIds: [], layerId: null });
    setOwn(null);
  };
  return {
    drawn,
    /** it is drawn otherwise than it lies */
    isChanged: own !== null,
    isLaid: repair !== undefined,
    /** the subject was outlined otherwise since */
    isPast: spec?.method === 'strip' && JSON.stringify(spec.guard) !== JSON.stringify(guard),
    status: state.statuses.find((s) => s.id === repair?.id),
    tryId: repair?.chosen,
    draw: (from: Point, to: Point) => {
      const height = Math.round(HEIGHT * state.picture.facts.height);
      const start: StripDrawn = {
        from,
        to,
        left: height,
        right: height,
        profile: 'rounded board',
        own: handlesOf(pointsOf('rounded board')),
        relief: 1,
        stops: 0.3,
        shadow: 0.7,
      };
      setOwn({ ...start, ...drawn, from, to });
    },
    set,
    setProfile: (profile: StripDrawn['profile']) =>
      drawn && setOwn({ ...drawn, profile, ...(profile !== 'own' && { own: handlesOf(pointsOf(profile)) }) }),
    lay,
    drop: () => setOwn(null),
    remove: async () => {
      setOwn(null);
      if (repair) await edits.edit({ type: 'removeRepair', id: repair.id });
    },
  };
}

export type Strip = ReturnType<typeof useStrip>;
