import { useState, type KeyboardEvent, type PointerEvent, type RefObject } from 'react';
import type { Point } from '../../core/mask/shapes.ts';
import type { Box } from '../../core/raster/raster.ts';
import { arrowMove } from './arrows.ts';

/** The box between two corners. */
export function cornersOf(a: Point, b: Point): Box {
  const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  return { x, y, width: Math.abs(a[0] - b[0]), height: Math.abs(a[1] - b[1]) };
}

/** Two places that are set by dragging, or by the arrow keys and Space; Escape drops the first. */
export function useTwoPlaces(
  svg: RefObject<SVGSVGElement | null>,
  source: Box,
  long: number,
  least: number,
  isOn: boolean,
  onDrawn?: (from: Point, to: Point) => void,
) {
  const [ends, setEnds] = useState<[Point, Point] | null>(null);
  const [cross, setCross] = useState<Point | null>(null);
  const at = (e: PointerEvent): Point => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const { x, y } = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    return [x, y];
  };
  const end = (to: Point) => {
    if (ends && Math.hypot(to[0] - ends[0][0], to[1] - ends[0][1]) > least) onDrawn?.(ends[0], to);
    setEnds(null);
  };
  const onKey = (e: KeyboardEvent) => {
    if (!isOn) return;
    const here: Point = cross ?? [source.width / 2, source.height / 2];
    const next = arrowMove(e, here, long);
    if (next) {
      setCross(next);
      if (ends) setEnds([ends[0], next]);
    } else if (e.key === ' ') {
      if (ends) end(here);
      else setEnds([here, here]);
    } else if (e.key === 'Escape') setEnds(null);
    else return;
    e.preventDefault();
  };
  const handlers = {
    onKeyDown: onKey,
    onPointerDown: (e: PointerEvent) => {
      if (!isOn) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      setEnds([at(e), at(e)]);
    },
    onPointerMove: (e: PointerEvent) => ends && e.buttons > 0 && setEnds([ends[0], at(e)]),
    onPointerUp: (e: PointerEvent) => ends && end(at(e)),
  };
  return { ends, cross, handlers };
}
