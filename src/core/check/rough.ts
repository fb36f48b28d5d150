/** px of half a side over which places are compared, and px between those that are looked at. */
export const HALF = 7;
const EVERY = 2;
const SIDE = HALF + 1;

/** A place whose surroundings are read once: they lie whole within the plane, with a px to spare. */
export interface Compared {
  x: number;
  y: number;
  /** what is around it, as it is and mirrored across, evened to a mean of 0 and a length of 1 */
  around?: Record<'1' | '-1', Float32Array>;
  /** 1 by how much the surroundings of it and of the eight px beside vary, 0 where they do not */
  scales?: Float32Array;
}

interface Plane {
  width: number;
  luma: Float32Array;
}

const read = ({ luma, width }: Plane, x: number, y: number, mirror: 1 | -1): Float32Array => {
  const out = new Float32Array(SIDE * SIDE);
  for (let v = 0, k = 0; v < SIDE; v++)
    for (let u = 0; u < SIDE; u++, k++) out[k] = luma[(y - HALF + EVERY * v) * width + x + mirror * (EVERY * u - HALF)];
  return out;
};

/** Evens a list to a mean of 0 and a length of 1; says by what it was divided. */
function evened(list: Float32Array): number {
  let [sum, length] = [0, 0];
  for (let k = 0; k < list.length; k++) sum += list[k];
  const mean = sum / list.length;
  for (let k = 0; k < list.length; k++) {
    list[k] -= mean;
    length += list[k] * list[k];
  }
  const by = Math.sqrt(length);
  if (by > 0) for (let k = 0; k < list.length; k++) list[k] /= by;
  return by;
}

/**
 * Where within 1 px beside a place it is most like another, and how much: correlation of every second px.
 * @returns null where it nowhere is by `least`
 */
export function likestBeside(
  plane: Plane,
  own: Compared,
  other: Compared,
  mirror: 1 | -1,
  least: number,
): { x: number; y: number; r: number } | null {
  const { luma, width } = plane;
  own.around ??= { '1': read(plane, own.x, own.y, 1), '-1': read(plane, own.x, own.y, -1) };
  if (!own.scales) {
    evened(own.around[1]);
    evened(own.around[-1]);
    own.scales = scalesOf(plane, own);
  }
  other.scales ??= scalesOf(plane, other);
  const values = own.around[mirror];
  let best: { x: number; y: number; r: number } | null = null;
  let most = least;
  for (let dy = -1, n = 0; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++, n++) {
      const [x, y] = [other.x + dx, other.y + dy];
      let [even, odd] = [0, 0];
      for (let v = 0, k = 0; v < SIDE; v++)
        for (let u = 0, i = (y - HALF + EVERY * v) * width + x - HALF; u < SIDE; u += 2, k += 2, i += 2 * EVERY) {
          even += values[k] * luma[i];
          odd += values[k + 1] * luma[i + EVERY];
        }
      const r = (even + odd) * other.scales[n];
      if (r > most) [best, most] = [{ x, y, r }, r];
    }
  return best;
}

function scalesOf(plane: Plane, { x, y }: Compared): Float32Array {
  const out = new Float32Array(9);
  for (let dy = -1, n = 0; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++, n++) {
      const by = evened(read(plane, x + dx, y + dy, 1));
      out[n] = by > 0 ? 1 / by : 0;
    }
  return out;
}
