import type { HandSpec, Repair } from '../../../contract/document.ts';
import type { Point, Shape } from '../../../core/mask/shapes.ts';
import type { Brush, StrokePoint } from '../../../core/mask/strokes.ts';
import { PLAIN_POSE, type Pose } from '../../../core/repair/hand/donor.ts';
import type { ShadeSpec } from '../../../core/repair/spec.ts';
import type { Direction } from './floating.ts';

export const HAND_MODES = ['copy', 'blend', 'patch', 'transplant', 'shade', 'reveal'] as const;
export type HandMode = (typeof HAND_MODES)[number];
export const isHand = (mode: string): mode is HandMode => (HAND_MODES as readonly string[]).includes(mode);

/** Settings of the brush and of every method by hand. */
export interface HandSettings {
  brush: Omit<Brush, 'size'>;
  pose: Pose;
  travels: boolean;
  shade: Pick<ShadeSpec, 'effect' | 'stops' | 'range'>;
  direction: Direction;
  blended: boolean;
  feather: number;
  /** a transplant is hidden at first, to be revealed with a brush */
  hidden: boolean;
  /** what the brush does in reveal; `original` outlines an area of which every layer is hidden */
  revealOp: 'hide' | 'show' | 'original';
}

/** As they are when a picture is opened. */
export const START: HandSettings = {
  brush: { hardness: 0.7, flow: 0.7, opacity: 1, spacing: 0.12, pressure: 'size' },
  pose: PLAIN_POSE,
  travels: true,
  shade: { effect: 'tone', stops: 0.25, range: 'all' },
  direction: 'to the good',
  blended: true,
  feather: 4,
  hidden: false,
  revealOp: 'hide',
};

export const round = (v: number, to: number) => Math.round(v * to) / to;

/** Points as they are kept: to a hundredth of a pixel. */
export const kept = ([x, y, p]: StrokePoint): StrokePoint => [round(x, 100), round(y, 100), round(p, 1000)];

/** What is done by hand with the pointer. */
export type PaintedSpec = Exclude<HandSpec, { method: 'lift' | 'strip' }>;

/** The specification of the chosen try when the repair is one by hand. */
export function handSpec(repair: Repair | undefined): PaintedSpec | null {
  const spec = repair?.tries.find((t) => t.id === repair.chosen)?.spec;
  if (!spec || spec.method === 'fill' || spec.method === 'given' || spec.method === 'lift') return null;
  return spec.method === 'stretch' || spec.method === 'strip' ? null : spec;
}

/** The strokes of a repair as shapes, for finding what lies under the pointer. */
export function strokeShapes(spec: HandSpec | null): Shape[] {
  if (!spec || !('strokes' in spec)) return [];
  return spec.strokes.map((s) => ({
    op: 'add',
    kind: 'brush',
    points: s.points.map(([x, y]): Point => [x, y]),
    size: s.size,
  }));
}
