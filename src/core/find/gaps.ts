import { grownBySquare } from '../mask/groups.ts';
import { rasterise, scaleShapes, type Shape } from '../mask/shapes.ts';
import { intersect, isEmpty, type Box } from '../raster/raster.ts';
import type { Find } from './find.ts';

/** Where gaps are is known well enough at an eighth of the size. */
const SCALE = 8;
/** Share of the picture's long side that is beside a gap. Its edge stands out from all that is there: chosen on a joined picture. */
const BESIDE = 1 / 60;
/** Share of a find beside or within gaps from which on it is nothing but their edge. */
const MOST = 0.5;

/** A box at that size, rounded outwards. */
function reduced({ x, y, width, height }: Box): Box {
  const [left, top] = [Math.floor(x / SCALE), Math.floor(y / SCALE)];
  return {
    x: left,
    y: top,
    width: Math.ceil((x + width) / SCALE) - left,
    height: Math.ceil((y + height) / SCALE) - top,
  };
}

/**
 * Leaves out what was found only because nothing is there yet: finds within gaps that are still open, or along their edge.
 * @param gaps shapes of each, px as those of the finds
 * @param box all of the picture
 */
export function awayFromGaps<F extends Pick<Find, 'shapes' | 'box'>>(
  finds: readonly F[],
  gaps: ReadonlyArray<readonly Shape[]>,
  box: Box,
): F[] {
  if (!gaps.length) return [...finds];
  const frame = reduced(box);
  const { width, height } = frame;
  const open = new Uint8Array(width * height);
  for (const shapes of gaps)
    rasterise(scaleShapes(shapes, 1 / SCALE), frame).data.forEach((v, i) => v && (open[i] = 1));
  const beside = grownBySquare(open, width, height, Math.ceil((BESIDE * Math.max(box.width, box.height)) / SCALE));
  return finds.filter((find) => {
    const within = intersect(reduced(find.box), frame);
    if (isEmpty(within)) return true;
    const { data } = rasterise(scaleShapes(find.shapes, 1 / SCALE), within);
    const isThin = !data.some((v) => v > 0);
    let [near, all] = [0, 0];
    for (let v = 0, i = 0; v < within.height; v++)
      for (let u = 0; u < within.width; u++, i++) {
        if (!isThin && !data[i]) continue;
        all++;
        near += beside[(within.y - frame.y + v) * width + within.x - frame.x + u];
      }
    return near < MOST * all;
  });
}
