import { useCallback, useEffect, useRef, type PointerEvent as ReactPointerEvent } from 'react';
import type { PictureState } from '../../../contract/api.ts';
import type { Point } from '../../../core/mask/shapes.ts';
import type { DonorAdvice } from '../../../core/repair/hand/donor-search.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import { useLatest } from '../../lib/latest.ts';
import { FOLLOWED } from '../../viewer/CloseUp.tsx';
import { useGestures } from '../../viewer/useGestures.ts';
import type { ViewerHandle } from '../../viewer/usePictureViewer.ts';
import { drawHand, isBrushed } from './draw-hand.ts';
import type { Drag, Sheet } from './pointer/drag.ts';
import { POINTERS } from './pointer/registry.ts';
import type { Hand } from './useHand.ts';

/** A canvas above the close-up on which is painted, outlined, lifted and dragged with the verbs of the hand. */
export function HandLayer({
  state,
  handle,
  hand,
  donors,
  markers,
  bare,
  keyboardCursor,
  donorHeld,
  donorClicked,
  pointerAt,
}: {
  state: PictureState;
  handle: ViewerHandle | null;
  hand: Hand;
  donors: DonorAdvice[];
  markers: boolean;
  /** nothing is drawn but the brush */
  bare: boolean;
  keyboardCursor: boolean;
  /** the key that sets a donor is held */
  donorHeld: boolean;
  /** set when a donor was clicked while the key was held */
  donorClicked: { current: boolean };
  /** where the pointer is, for keys */
  pointerAt: { current: Point | null };
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scratch = useRef<HTMLCanvasElement | null>(null);
  const pointer = useRef<Point | null>(null);
  const drag = useRef<Drag | null>(null);
  const gestures = useGestures(canvas, handle);
  const latest = useLatest(hand);
  const { mode, floating, onShown } = hand;
  const area = canvasOfState(state);

  const frame = useRef(0);
  const draw = useCallback(() => {
    cancelAnimationFrame(frame.current);
    frame.current = requestAnimationFrame(() => {
      if (!canvas.current || !handle) return;
      scratch.current ??= document.createElement('canvas');
      drawHand({
        hand,
        handle,
        area,
        donors,
        canvas: canvas.current,
        scratch: scratch.current,
        drag: drag.current,
        pointer: pointer.current,
        markers,
        bare,
        keyboardCursor,
        donorHeld,
      });
    });
  }, [handle, hand, donors, markers, bare, keyboardCursor, donorHeld, area]);

  useEffect(() => {
    draw();
    onShown.current = draw;
    if (!handle) return;
    const { viewer } = handle;
    for (const name of FOLLOWED) viewer.addHandler(name, draw);
    return () => {
      for (const name of FOLLOWED) viewer.removeHandler(name, draw);
    };
  }, [handle, draw, onShown]);

  const at = (e: { clientX: number; clientY: number }): Point => {
    const box = canvas.current!.getBoundingClientRect();
    return handle!.toImage(e.clientX - box.left, e.clientY - box.top);
  };
  const apart = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]) * handle!.scale();

  const down = (e: ReactPointerEvent) => {
    if (!handle || !mode) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    if (gestures.touch(e)) {
      drag.current?.drop?.();
      drag.current = null;
      return draw();
    }
    if (e.button === 1) return gestures.startPan(e);
    const p = at(e);
    if ((mode === 'copy' || mode === 'blend') && (e.button === 2 || donorHeld || hand.armed)) {
      donorClicked.current = true;
      return hand.setDonor(p);
    }
    if (e.button === 2) return gestures.startPan(e);
    const sheet: Sheet = {
      handle,
      area,
      donors,
      at,
      apart,
      get hand() {
        return latest.current;
      },
    };
    drag.current = POINTERS[mode](p, e, sheet);
    draw();
  };

  const move = (e: ReactPointerEvent) => {
    if (!handle || !mode || gestures.move(e)) return;
    const p = at(e);
    pointer.current = p;
    pointerAt.current = p;
    if (drag.current) drag.current.move(p, e);
    else if (!donorHeld && !hand.armed) hand.hover(p);
    draw();
  };

  const up = (e: ReactPointerEvent) => {
    gestures.end(e);
    const done = drag.current;
    drag.current = null;
    if (!done) return;
    done.end();
    draw();
  };

  return (
    <canvas
      ref={canvas}
      aria-hidden
      data-testid="hand"
      style={{
        pointerEvents: mode ? 'auto' : 'none',
        display: mode ? 'block' : 'none',
        cursor: floating && !hand.bending ? 'move' : isBrushed(hand) ? 'none' : 'crosshair',
      }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onPointerLeave={() => {
        pointer.current = null;
        pointerAt.current = null;
        if (!drag.current) hand.hover(null);
        draw();
      }}
      onContextMenu={(e) => e.preventDefault()}
      onWheel={gestures.wheel}
    />
  );
}
