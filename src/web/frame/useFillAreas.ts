import { useState } from 'react';
import { boxShape, type Point, type Shape } from '../../core/mask/shapes.ts';
import { cornersOf } from '../lib/two-places.ts';

/** What can be drawn for a fill: where it may come from, where not, and lines along which edges go on. */
export const FILL_AREAS = ['donor', 'barred', 'guide'] as const;
export type FillArea = (typeof FILL_AREAS)[number];

interface DrawnArea {
  area: FillArea;
  shape: Shape;
}

/** Areas and lines for a fill of what a frame adds, undone one by one until they are used. */
export function useFillAreas() {
  const [drawn, setDrawn] = useState<DrawnArea[]>([]);
  const [undone, setUndone] = useState<DrawnArea[]>([]);
  /** how many were used already: those are not undone here */
  const [used, setUsed] = useState(0);
  const of = (area: FillArea) => drawn.filter((d) => d.area === area).map((d) => d.shape);
  const canUndo = drawn.length > used;
  return {
    donorArea: of('donor'),
    barred: of('barred'),
    edges: of('guide'),
    count: drawn.length,
    last: canUndo ? drawn.at(-1)!.area : null,
    next: undone.at(-1)?.area ?? null,
    draw: (area: FillArea, from: Point, to: Point) => {
      const shape: Shape =
        area === 'guide' ? { op: 'add', kind: 'strand', points: [from, to], size: 1 } : boxShape(cornersOf(from, to));
      setDrawn([...drawn, { area, shape }]);
      setUndone([]);
    },
    /** Takes back what was drawn last, or draws it again. @returns whether there was something */
    step: (which: 'undo' | 'redo'): boolean => {
      if (which === 'undo' ? !canUndo : !undone.length) return false;
      if (which === 'undo') {
        setUndone([...undone, drawn.at(-1)!]);
        setDrawn(drawn.slice(0, -1));
      } else {
        setDrawn([...drawn, undone.at(-1)!]);
        setUndone(undone.slice(0, -1));
      }
      return true;
    },
    /** They were used: from now on undo takes back the fill. */
    settle: () => {
      setUsed(drawn.length);
      setUndone([]);
    },
    clear: () => {
      setDrawn([]);
      setUndone([]);
      setUsed(0);
    },
  };
}

export type FillAreas = ReturnType<typeof useFillAreas>;
