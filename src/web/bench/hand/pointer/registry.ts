import type { HandMode } from '../settings.ts';
import { donorOrStroke } from './donor.ts';
import type { Begin } from './drag.ts';
import { floating } from './floating.ts';
import { outline } from './outline.ts';
import { stroke } from './stroke.ts';

const area: Begin = (p, e, sheet) =>
  sheet.hand.floating ? floating(p, e, sheet) : outline(sheet.hand.lift)(p, e, sheet);

/** What each verb does with the pointer, one line each. */
export const POINTERS: Record<HandMode, Begin> = {
  copy: donorOrStroke,
  blend: donorOrStroke,
  patch: area,
  transplant: area,
  shade: stroke,
  reveal: (p, e, sheet) =>
    sheet.hand.settings.revealOp === 'original' ? outline(sheet.hand.bringBack)(p, e, sheet) : stroke(p, e, sheet),
};
