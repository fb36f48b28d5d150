import { useRef, useState, type KeyboardEvent, type PointerEvent, type RefObject } from 'react';
import type { Point } from '../../core/mask/shapes.ts';
import type { Box } from '../../core/raster/raster.ts';
import { arrowMove } from './arrows.ts';

/** The box between two corners. */
export function cornersOf(a: Point, b: Point): Box {
  const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  return { x, y, width: Math.abs(a[0] - b[0]), height: Math.abs(a[1] - b[1]) };
}

/** A box that reaches to a place as well. */
const reaching = ({ x, y, width, height }: Box, [u, v]: Point): Box =>
  cornersOf([Math.min(x, u), Math.min(y, v)], [Math.max(x + width, u), Math.max(y + height, v)]);

/** Share of the size of all that a hand went over within which it has come back to where it began: then it has drawn around something. */
const CAME_BACK = 0.5;

/** Two opposite corners of what a hand drew: from where it began to where it is, or around all that it went around. */
export function drawnCorners(from: Point, to: Point, over: Box): [Point, Point] {
  const size = Math.hypot(over.width, over.height);
  if (Math.hypot(to[0] - from[0], to[1] - from[1]) >= CAME_BACK * size) return [from, to];
  return [
    [over.x, over.y],
    [over.x + over.width, over.y + over.height],
  ];
}

/** Two places that are set by dragging, or by the arrow keys and Space; Escape drops the first. @param around they are corners of a box */
export function useTwoPlaces(
  svg: RefObject<SVGSVGElement | null>,
  source: Box,
  long: number,
  least: number,
  isOn: boolean,
  onDrawn?: (from: Point, to: Point) => void,
  around = false,
) {
  const over = useRef<Box>({ x: 0, y: 0, width: 0, height: 0 });
  const [ends, setEnds] = useState<[Point, Point] | null>(null);
  const [cross, setCross] = useState<Point | null>(null);
  const at = (e: PointerEvent): Point => {
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const { x, y } = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    return [x, y];
  };
  const [began, setBegan] = useState<Point | null>(null);
  const end = ([from, to]: [Point, Point]) => {
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) > least) onDrawn?.(from, to);
    setEnds(null);
    setBegan(null);
  };
  const drawn = (from: Point, to: Point): [Point, Point] => {
    over.current = reaching(over.current, to);
    return around ? drawnCorners(from, to, over.current) : [from, to];
  };
  const onKey = (e: KeyboardEvent) => {
    if (!isOn) return;
    const here: Point = cross ?? [source.width / 2, source.height / 2];
    const next = arrowMove(e, here, long);
    if (next) {
      setCross(next);
      if (ends) setEnds([ends[0], next]);
    } else if (e.key === ' ') {
      if (ends) end([ends[0], here]);
      else setEnds([here, here]);
    } else if (e.key === 'Escape') {
      setEnds(null);
      setBegan(null);
    } else return;
    e.preventDefault();
  };
  const handlers = {
    onKeyDown: onKey,
    onPointerDown: (e: PointerEvent) => {
      if (!isOn) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      const from = at(e);
      over.current = cornersOf(from, from);
      setBegan(from);
      setEnds([from, from]);
    },
    onPointerMove: (e: PointerEvent) => began && e.buttons > 0 && setEnds(drawn(began, at(e))),
    onPointerUp: (e: PointerEvent) => began && end(drawn(began, at(e))),
  };
  return { ends, cross, handlers };
}
