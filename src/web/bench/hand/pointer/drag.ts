import type { PointerEvent } from 'react';
import type { HandSpec } from '../../../../contract/document.ts';
import type { Point } from '../../../../core/mask/shapes.ts';
import type { Box } from '../../../../core/raster/raster.ts';
import type { DonorAdvice } from '../../../../core/repair/hand/donor-search.ts';
import type { ViewerHandle } from '../../../viewer/usePictureViewer.ts';
import type { Hand } from '../useHand.ts';

/** What a verb does with the pointer while it is down. */
export interface Drag {
  /** an outline as far as it is drawn */
  outline?: Point[];
  /** the repair as it would become */
  draft?: HandSpec;
  move(p: Point, e: PointerEvent): void;
  end(): void;
  /** a second finger came down: what was begun was meant for the sheet */
  drop?(): void;
}

/** Where the pointer is at work. */
export interface Sheet {
  /** as it is now: what a drag began with is out of date once something was answered */
  readonly hand: Hand;
  handle: ViewerHandle;
  area: Box;
  /** the three proposed donors */
  donors: DonorAdvice[];
  /** where an event lies on the picture */
  at(e: { clientX: number; clientY: number }): Point;
  /** distance on the screen between places of the picture */
  apart(a: Point, b: Point): number;
}

/** Begins what a verb does at a place; null where it does nothing there that goes on. */
export type Begin = (p: Point, e: PointerEvent, sheet: Sheet) => Drag | null;
