import { useCallback, useRef, useState } from 'react';
import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import type { Point } from '../../core/mask/shapes.ts';
import { canvasOfState } from '../lib/canvas.ts';
import type { View } from '../viewer/CloseUp.tsx';
import type { ViewerHandle } from '../viewer/usePictureViewer.ts';
import { factsOf } from '../worklist/rows.ts';

/** Share of a side of the picture from which on a fault is looked at with all of it. */
const WHOLE = 0.6;
/** px of the screen that a press of an arrow moves the picture, and with Shift. */
const [STEP, LEAP] = [24, 160];

/** Moving about on the picture: the handle of the close-up, and ways to places. */
export function useNavigation(state: PictureState | undefined) {
  const handle = useRef<ViewerHandle | null>(null);
  const [viewer, setViewer] = useState<ViewerHandle | null>(null);
  const [view, setView] = useState<View | null>(null);

  const onHandle = useCallback((h: ViewerHandle | null) => {
    handle.current = h;
    setViewer(h);
    (window as unknown as { tersumView?: ViewerHandle | null }).tersumView = h;
  }, []);

  const goTo = useCallback(
    (id: string) => {
      const fault = state?.document.faults.find((f) => f.id === id);
      if (!fault || !handle.current) return;
      const { bounds } = factsOf(fault, state!);
      const room = handle.current.viewer.viewport.getContainerSize();
      const { width, height } = canvasOfState(state!);
      if (bounds.width > WHOLE * width || bounds.height > WHOLE * height) return handle.current.fit();
      const fit = Math.min(room.x / (bounds.width * 1.8 + 60), room.y / (bounds.height * 1.8 + 60));
      const [x, y] = [bounds.x + bounds.width / 2, bounds.y + bounds.height / 2];
      handle.current.centreOn(x, y, Math.min(3, Math.max(0.1, fit)));
    },
    [state],
  );

  /** Zooms on a fault when it is in sight, else on what is in the middle. */
  const zoomTo = (scale: number, fault?: Fault) => {
    const h = handle.current;
    if (!h || !fault || scale < h.scale()) return h?.zoomTo(scale);
    const { anchor } = factsOf(fault, state!);
    const [x, y] = h.toScreen(...anchor);
    const room = h.viewer.viewport.getContainerSize();
    if (x < 0 || y < 0 || x > room.x || y > room.y) h.zoomTo(scale);
    else h.centreOn(...anchor, scale);
  };

  /** A way on the screen as it is on the sheet, however that is turned. */
  const onSheet = (dx: number, dy: number): Point => {
    const r = ((handle.current?.angle() ?? 0) * Math.PI) / 180;
    return [dx * Math.cos(r) + dy * Math.sin(r), dy * Math.cos(r) - dx * Math.sin(r)];
  };

  const pan = (dx: number, dy: number, leap: boolean) => {
    const h = handle.current;
    if (!h) return;
    const far = (leap ? LEAP : STEP) / h.scale();
    const [x, y] = h.centre();
    const [along, down] = onSheet(dx * far, dy * far);
    h.centreOn(x + along, y + down);
    h.viewer.viewport.applyConstraints(true);
  };

  /** What lies under the cross in the middle. */
  const middle = (): Point | null => {
    const h = handle.current;
    const c = h?.viewer.viewport.getContainerSize();
    return h && c ? h.toImage(c.x / 2, c.y / 2) : null;
  };

  /** Turns the sheet by so many degrees, clockwise. */
  const turnBy = (by: number) => handle.current?.turnTo(handle.current.angle() + by);

  return { handle, viewer, view, setView, onHandle, goTo, zoomTo, pan, middle, onSheet, turnBy };
}

export type Navigation = ReturnType<typeof useNavigation>;
