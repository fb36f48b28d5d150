import type { Box } from '../../core/raster/raster.ts';

/** Fine lines over a frame, to see what stands where; shares of its width and height, from one end to the other. */
const LINES = {
  thirds: [
    [1 / 3, 0, 1 / 3, 1],
    [2 / 3, 0, 2 / 3, 1],
    [0, 1 / 3, 1, 1 / 3],
    [0, 2 / 3, 1, 2 / 3],
  ],
  diagonals: [
    [0, 0, 1, 1],
    [0, 1, 1, 0],
  ],
  'centre lines': [
    [0.5, 0, 0.5, 1],
    [0, 0.5, 1, 0.5],
  ],
  'no lines': [],
} as const;
export type GuideLines = keyof typeof LINES;
export const GUIDE_LINES = Object.keys(LINES) as GuideLines[];

/** The lines over a frame as one path. */
export const guidePath = ({ x, y, width, height }: Box, lines: GuideLines): string =>
  LINES[lines].map(([a, b, c, d]) => `M${x + a * width} ${y + b * height}L${x + c * width} ${y + d * height}`).join('');

/** Where the lines that were chosen last are kept. */
const KEPT = 'frameLines';
export const keptLines = (): GuideLines => GUIDE_LINES.find((l) => l === localStorage.getItem(KEPT)) ?? 'thirds';
export const keepLines = (lines: GuideLines): void => localStorage.setItem(KEPT, lines);
