import { useCallback } from 'react';
import type { RevealMark } from '../../../core/mask/reveal.ts';
import type { Shape } from '../../../core/mask/shapes.ts';
import type { HandBase } from './useHandBase.ts';

/** Hiding and showing parts of the chosen repair or layer, and bringing the original back. */
export function useReveal({ state, repair, layerId, edits, settings }: HandBase) {
  const reveal = useCallback(
    (marks: RevealMark[]) => {
      if (!state) return;
      if (repair)
        void edits.edit({ type: 'changeRepair', id: repair.id, set: { reveal: [...(repair.reveal ?? []), ...marks] } });
      else {
        const layer = state.document.layers.find((l) => l.id === layerId);
        if (layer)
          void edits.edit({ type: 'changeLayer', id: layer.id, set: { reveal: [...(layer.reveal ?? []), ...marks] } });
      }
    },
    [state, repair, layerId, edits],
  );

  const bringBack = useCallback(
    (shapes: Shape[]) => void edits.edit({ type: 'bringBack', shapes, feather: settings.feather }),
    [edits, settings.feather],
  );
  return { reveal, bringBack };
}
