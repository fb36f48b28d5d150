import OpenSeadragon from 'openseadragon';
import { useMemo, useRef, type PointerEvent, type RefObject, type WheelEvent } from 'react';
import type { ViewerHandle } from './usePictureViewer.ts';

interface Place {
  x: number;
  y: number;
}

/** Whether a pen has drawn here: from then on it draws, and a finger moves the picture. */
let penSeen = false;

/** Moving about while something is being drawn: two fingers, the middle or right button, the wheel. */
export function useGestures(canvas: RefObject<HTMLCanvasElement | null>, handle: ViewerHandle | null) {
  const pan = useRef<Place | null>(null);
  const touches = useRef(new Map<number, Place>());
  return useMemo(() => {
    const point = (x: number, y: number) => {
      const box = canvas.current!.getBoundingClientRect();
      return handle!.viewer.viewport.pointFromPixel(new OpenSeadragon.Point(x - box.left, y - box.top));
    };
    return {
      /** Notes a finger that comes down; true when it moves the picture: the second one, or any where a pen draws. */
      touch(e: PointerEvent): boolean {
        if (e.pointerType === 'pen') penSeen = true;
        if (e.pointerType !== 'touch') return false;
        touches.current.set(e.pointerId, { x: e.clientX, y: e.clientY });
        pan.current = penSeen && touches.current.size === 1 ? { x: e.clientX, y: e.clientY } : null;
        return penSeen || touches.current.size > 1;
      },
      startPan(e: PointerEvent): void {
        pan.current = { x: e.clientX, y: e.clientY };
      },
      /** Moves or zooms the picture; true when it did. */
      move(e: PointerEvent): boolean {
        if (!handle) return false;
        if (touches.current.size === 2 && touches.current.has(e.pointerId)) {
          const spread = () => {
            const [a, b] = [...touches.current.values()];
            return {
              x: (a.x + b.x) / 2,
              y: (a.y + b.y) / 2,
              apart: Math.hypot(a.x - b.x, a.y - b.y),
              turn: (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI,
            };
          };
          const from = spread();
          touches.current.set(e.pointerId, { x: e.clientX, y: e.clientY });
          const to = spread();
          const { viewport } = handle.viewer;
          viewport.panBy(point(from.x, from.y).minus(point(to.x, to.y)), true);
          viewport.zoomBy(to.apart / Math.max(1, from.apart), point(to.x, to.y), true);
          const box = canvas.current!.getBoundingClientRect();
          handle.turnTo(handle.angle() + to.turn - from.turn, [to.x - box.left, to.y - box.top]);
          viewport.applyConstraints(true);
          return true;
        }
        if (!pan.current) return false;
        const dx = e.clientX - pan.current.x;
        const dy = e.clientY - pan.current.y;
        pan.current = { x: e.clientX, y: e.clientY };
        const [cx, cy] = handle.toImage(canvas.current!.clientWidth / 2 - dx, canvas.current!.clientHeight / 2 - dy);
        handle.centreOn(cx, cy);
        return true;
      },
      end(e: PointerEvent): void {
        touches.current.delete(e.pointerId);
        pan.current = null;
      },
      wheel(e: WheelEvent): void {
        if (!handle) return;
        const { viewport } = handle.viewer;
        viewport.zoomBy(e.deltaY < 0 ? 1.2 : 1 / 1.2, point(e.clientX, e.clientY));
        viewport.applyConstraints();
      },
    };
  }, [canvas, handle]);
}
