import type { Box } from '../../core/raster/raster.ts';

/** A flight over a picture: rows from the top down, each flown from one side to the other, there and back. */
export interface Flight {
  /** middle of the view along each row, px */
  rows: number[];
  /** where the middle of the view begins and ends on a row */
  from: number;
  to: number;
  /** px in all, turns included */
  length: number;
}

/** Share of the view that two rows have in common, so that nothing lies only at an edge. */
const OVERLAP = 0.12;

/** Plans rows that together show all of a picture in a view of so many of its px. */
export function flightOver(canvas: Box, view: { width: number; height: number }): Flight {
  const step = Math.max(1, view.height * (1 - OVERLAP));
  const count = Math.max(1, Math.ceil((canvas.height - view.height) / step) + 1);
  // Spread evenly, so that the first shows the upper edge and the last the lower one.
  const [top, bottom] = [canvas.y + view.height / 2, canvas.y + canvas.height - view.height / 2];
  const rows =
    count === 1
      ? [canvas.y + canvas.height / 2]
      : Array.from({ length: count }, (_, n) => top + ((bottom - top) * n) / (count - 1));
  const wide = canvas.width > view.width;
  const from = wide ? canvas.x + view.width / 2 : canvas.x + canvas.width / 2;
  const to = wide ? canvas.x + canvas.width - view.width / 2 : from;
  const down = count > 1 ? rows[1] - rows[0] : 0;
  return { rows, from, to, length: count * (to - from) + (count - 1) * down };
}

/** Where the middle of the view is after so many px, and on which row. */
export function placeOn({ rows, from, to }: Flight, flown: number): { x: number; y: number; row: number } {
  const along = to - from;
  const down = rows.length > 1 ? rows[1] - rows[0] : 0;
  const each = along + down;
  const row = each > 0 ? Math.min(rows.length - 1, Math.max(0, Math.floor(flown / each))) : rows.length - 1;
  const on = Math.max(0, flown - row * each);
  const back = row % 2 === 1;
  const x = back ? to - Math.min(along, on) : from + Math.min(along, on);
  const turning = Math.max(0, on - along);
  const y = row + 1 < rows.length ? Math.min(rows[row + 1], rows[row] + turning) : rows[row];
  return { x, y, row };
}
