import { useCallback, useEffect, useRef, useState } from 'react';
import type { PictureState } from '../../../contract/api.ts';
import type { Fault, FaultKind, HandSpec, Repair } from '../../../contract/document.ts';
import type { RevealMark } from '../../../core/mask/reveal.ts';
import { boundsWithin, type Shape } from '../../../core/mask/shapes.ts';
import { grow, intersect, isEmpty, type Box } from '../../../core/raster/raster.ts';
import { fieldOf } from '../../../document/canvas.ts';
import { stampOf } from '../../lib/stamp.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import type { Edits } from '../../lib/edits.ts';
import type { ViewerHandle } from '../../viewer/usePictureViewer.ts';
import { isHand, START, type HandMode, type HandSettings } from './settings.ts';
import { usePreview } from './usePreview.ts';

/** What the verbs that are done by hand are given. */
export interface HandOptions {
  state: PictureState | undefined;
  mode: string;
  setMode(mode: HandMode | 'look'): void;
  fault: Fault | undefined;
  repair: Repair | undefined;
  layerId: string | null;
  edits: Edits;
  size: number;
  barred: Shape[];
  /** the subject as it was outlined for the survey */
  subject: Shape[];
  /** the close-up, once it is there */
  viewer: ViewerHandle | null;
  /** strength proposed for the chosen fault */
  strength: number | undefined;
  select(ids: string[], go?: boolean): void;
}

/** Where no picture is open. */
const NOWHERE: Box = { x: 0, y: 0, width: 1, height: 1 };

/** What all of them share: settings, what is said, the preview, and placing a repair. */
export function useHandBase(options: HandOptions) {
  const { state, fault, repair, layerId, edits, size, select, strength } = options;
  const mode = isHand(options.mode) ? options.mode : null;
  const [settings, setSettings] = useState<HandSettings>(START);
  const [message, setMessage] = useState<string | null>(null);
  // The layer that draws hears of a new preview directly: the rest of the bench need not be drawn anew for it.
  const onShown = useRef<(() => void) | null>(null);
  const preview = usePreview(
    useCallback(() => onShown.current?.(), []),
    setMessage,
  );
  const picture = state?.picture;
  const area = state ? canvasOfState(state) : NOWHERE;
  const steps = state?.document.steps;
  const stamp = state ? stampOf(state.pixels) : '';
  const set = useCallback((change: Partial<HandSettings>) => setSettings((s) => ({ ...s, ...change })), []);

  // What was begun with another verb ends with it; here before all else that follows the verb.
  useEffect(() => {
    setMessage(null);
    preview.clear();
  }, [mode, preview]);

  const begin = useCallback(
    (repairId: string | null) => {
      if (!picture || !steps) return;
      // A new repair lies on top of its layer; without one the layer is made, or it is the top of that kind's.
      preview.begin({
        id: picture.id,
        area: fieldOf({ steps }, picture.facts),
        layer: layerId,
        repair: repairId,
        stamp,
      });
    },
    [picture, preview, steps, layerId, stamp],
  );

  const place = useCallback(
    async (
      spec: HandSpec,
      mark: { kind: FaultKind; shapes: Shape[] },
      more: { id?: string; reveal?: RevealMark[]; strength?: number } = {},
    ) => {
      // What is painted far from the chosen fault is a repair of its own place.
      const own =
        fault &&
        !isEmpty(
          intersect(grow(boundsWithin(fault.shapes, area), Math.max(60, 2 * size)), boundsWithin(mark.shapes, area)),
        )
          ? fault
          : undefined;
      const next = await edits.edit({
        type: 'placeRepair',
        spec,
        faultIds: own ? [own.id] : [],
        ...(own ? {} : { mark }),
        layerId,
        ...(own && strength !== undefined && { strength }),
        ...more,
      });
      if (!next) return null;
      const made =
        next.document.repairs.find((r) => r.id === more.id) ??
        next.document.repairs.reduce((a, b) => (b.order > a.order ? b : a));
      if (!own && made.faultIds[0]) select([made.faultIds[0]], false);
      return made;
    },
    [edits, fault, layerId, select, strength, area, size],
  );

  /** Other settings or another donor for the chosen repair. */
  const changeSpec = useCallback(
    (spec: HandSpec) => {
      if (repair) void edits.edit({ type: 'changeSpec', id: repair.id, spec });
    },
    [repair, edits],
  );

  return {
    ...options,
    mode,
    settings,
    set,
    message,
    setMessage,
    preview,
    onShown,
    picture,
    area,
    stamp,
    begin,
    place,
    changeSpec,
  };
}

export type HandBase = ReturnType<typeof useHandBase>;
