/** Pixels around a thin cover: four floats each. */
export interface Ground {
  image: Float32Array;
  width: number;
  height: number;
  colours: 1 | 3;
  /** 1 where pixels are unknown */
  cover: Uint8Array;
}

export type Colour = [number, number, number];
export type Way = readonly [x: number, y: number];

export const away = (a: Colour, b: Colour): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** px beyond a cover's rim over which its colour is read. */
const RIM = 3;

/** Looks at a ground: colours between its pixels, and where a cover hides them. */
export class Eye {
  private readonly at: Colour = [0, 0, 0];

  constructor(private readonly ground: Ground) {}

  /** Reads a place into `at`. False where any of the pixels around it is unknown. */
  private read(x: number, y: number): boolean {
    const { image, width, height, cover, colours } = this.ground;
    const [u, v] = [Math.floor(x), Math.floor(y)];
    if (u < 0 || v < 0 || u + 1 >= width || v + 1 >= height) return false;
    const i = v * width + u;
    if (cover[i] || cover[i + 1] || cover[i + width] || cover[i + width + 1]) return false;
    const [fx, fy] = [x - u, y - v];
    for (let c = 0; c < colours; c++) {
      const p = 4 * i + c;
      const q = p + 4 * width;
      const upper = image[p] + (image[p + 4] - image[p]) * fx;
      const lower = image[q] + (image[q + 4] - image[q]) * fx;
      this.at[c] = upper + (lower - upper) * fy;
    }
    return true;
  }

  /** How far a place lies from one colour towards another, in levels; NaN where it is unknown. */
  tone(from: Colour, to: Colour): (x: number, y: number) => number {
    const contrast = away(from, to);
    const by = to.map((v, c) => (v - from[c]) / contrast);
    return (x, y) => (this.read(x, y) ? this.at[0] * by[0] + this.at[1] * by[1] + this.at[2] * by[2] : NaN);
  }

  /** Whether a place lies under the cover; null beyond the picture. */
  covered(x: number, y: number): boolean | null {
    const { width, height, cover } = this.ground;
    const [u, v] = [Math.round(x), Math.round(y)];
    return u < 0 || v < 0 || u >= width || v >= height ? null : cover[v * width + u] === 1;
  }

  /** Mean colour beside places, so many px off along a normal; NaN where none of it is known. */
  beside(places: readonly Way[], [nx, ny]: Way, [from, to]: readonly [number, number]): Colour {
    const sum: Colour = [0, 0, 0];
    let n = 0;
    for (const [x, y] of places)
      for (let d = from; d <= to; d++) {
        if (!this.read(x + d * nx, y + d * ny)) continue;
        for (let c = 0; c < 3; c++) sum[c] += this.at[c];
        n++;
      }
    return sum.map((v) => v / n) as Colour;
  }

  /**
   * What lies just beyond a cover's rim, seen from a place; null where there is no rim within so many px.
   * @param least px from the place at which it begins at the least
   */
  rim(x: number, y: number, [nx, ny]: Way, within: number, least = 0): Colour | null {
    for (let d = least; d <= within; d++) {
      if (this.covered(x + d * nx, y + d * ny) !== false) continue;
      const colour = this.beside([[x, y]], [nx, ny], [d + 1, d + RIM]);
      return colour[0] === colour[0] ? colour : null;
    }
    return null;
  }

  /** px from a place along (ux, uy) until the cover begins, at most `near`, and until it ends again; null where that is farther, or beyond the picture. */
  hidden([x, y]: Way, [ux, uy]: Way, near: number, longest: number): [number, number] | null {
    let from = 0;
    for (; from <= near; from++) {
      const covered = this.covered(x + from * ux, y + from * uy);
      if (covered === null) return null;
      if (covered) break;
    }
    if (from > near) return null;
    for (let to = from + 1; to - from <= longest; to++) {
      const covered = this.covered(x + to * ux, y + to * uy);
      if (covered === null) return null;
      if (!covered) return [from, to];
    }
    return null;
  }
}
