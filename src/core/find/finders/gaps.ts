import { colourChannels, fullScale, hasAlpha, type Raster } from '../../raster/raster.ts';
import type { Find, Finder } from '../find.ts';
import { groupsOf, outlineShape } from './blobs.ts';

/** Most that samples of an empty strip differ, share of the full scale. */
const FLAT = 1 / 255;

/** How many rows (or columns) from a side on hold one colour only. */
function flatRun(picture: Raster, side: 'top' | 'bottom' | 'left' | 'right'): number {
  const { width, height, channels, data } = picture;
  const colours = colourChannels(channels);
  const most = fullScale(picture.depth) * FLAT;
  const across = side === 'left' || side === 'right';
  const lines = across ? width : height;
  const length = across ? height : width;
  const at = (line: number, k: number) => {
    const l = side === 'right' || side === 'bottom' ? lines - 1 - line : line;
    return (across ? k * width + l : l * width + k) * channels;
  };
  const first = at(0, 0);
  let n = 0;
  for (; n < lines; n++) {
    for (let k = 0; k < length; k++) {
      const p = at(n, k);
      for (let c = 0; c < colours; c++) if (Math.abs(data[p + c] - data[first + c]) > most) return n;
    }
  }
  return n;
}

const find = (box: Find['box']): Find => ({
  kind: 'gap',
  score: 0.97,
  shapes: [{ op: 'add', kind: 'box', ...box }],
  box,
  width: Math.min(box.width, box.height),
  length: Math.max(box.width, box.height),
  contrast: 0,
});

/** Finds gaps: strips of one colour along the sides, and transparent places. Source: own. */
export const gaps: Finder = {
  find({ picture }) {
    const { width, height, channels, data } = picture;
    const out: Find[] = [];
    const sides = ['top', 'bottom', 'left', 'right'] as const;
    const runs = sides.map((s) => flatRun(picture, s));
    if (runs[0] === height) return [];
    const [top, bottom, left, right] = runs;
    if (top > 1) out.push(find({ x: 0, y: 0, width, height: top }));
    if (bottom > 1) out.push(find({ x: 0, y: height - bottom, width, height: bottom }));
    if (left > 1) out.push(find({ x: 0, y: top, width: left, height: height - top - bottom }));
    if (right > 1) out.push(find({ x: width - right, y: top, width: right, height: height - top - bottom }));
    if (hasAlpha(channels)) {
      const empty = new Uint8Array(width * height);
      for (let i = 0; i < empty.length; i++) empty[i] = data[(i + 1) * channels - 1] === 0 ? 1 : 0;
      for (const group of groupsOf(empty, width, height)) {
        if (group.area < 16) break;
        out.push({ ...find(group.box), shapes: [outlineShape(group, 1, picture)] });
      }
    }
    return out;
  },
};
