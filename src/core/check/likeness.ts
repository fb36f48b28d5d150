import type { Kernels } from '../kernels/memory.ts';

/** px of half a side over which places are compared. */
export const HALF = 7;
/** Bytes of the scales of a place. */
const SCALES = 48;

/** A place that lies whole within the plane, with what is around it and a px to spare. */
interface Spot {
  x: number;
  y: number;
}

/** Planes in which places are compared. */
export interface Compared {
  width: number;
  height: number;
  luma: Float32Array;
  grain: Float32Array;
}

/** How alike places of two planes are. Roughly over every second px, closely over all. */
export class Likeness {
  private readonly addresses: Record<'luma' | 'grain', number>;
  /** where the scales of a place lie that was looked at */
  private readonly scales = new Map<Spot, number>();

  constructor(
    private readonly kernels: Kernels,
    private readonly planes: Compared,
  ) {
    this.addresses = { luma: kernels.put(planes.luma), grain: kernels.put(planes.grain) };
    kernels.run.alikeOpen(this.addresses.luma, planes.width);
  }

  /** Takes a place, also mirrored across, to compare others with. */
  take({ x, y }: Spot, mirror: 1 | -1): void {
    this.kernels.run.alikeWith(x, y, mirror);
  }

  /**
   * Where within 1 px beside a place it is most like the one that was taken: correlation of every second px.
   * @returns null where it nowhere is by `least`
   */
  likestBeside(other: Spot, least: number): { x: number; y: number } | null {
    const { run } = this.kernels;
    let scales = this.scales.get(other);
    if (scales === undefined) {
      this.scales.set(other, (scales = this.kernels.reserve(SCALES)));
      run.alikeScales(other.x, other.y, scales);
    }
    const n = run.alikeBeside(other.x, other.y, scales, least);
    return n < 0 ? null : { x: other.x + (n % 3) - 1, y: other.y + Math.floor(n / 3) - 1 };
  }

  /** Correlation of a plane around two places over every so many rows, as far as both lie within it, and how much it varies there, levels. */
  correlation(
    of: 'luma' | 'grain',
    [ax, ay]: readonly [number, number],
    [bx, by]: readonly [number, number],
    mirror: 1 | -1,
    every: number,
  ): { r: number; varies: number } {
    const { width, height } = this.planes;
    const isWhole = (x: number, y: number) => x > HALF && y >= HALF && x + HALF + 1 < width && y + HALF < height;
    if (!isWhole(ax, ay) || !isWhole(bx, by)) return this.partly(of, ax, ay, bx, by, mirror, every);
    const { run } = this.kernels;
    const r = run.alikeCorrelation(this.addresses[of], ax, ay, bx, by, mirror, every);
    return { r, varies: run.alikeVaries() };
  }

  /** The same where not all of it lies within the plane. */
  private partly(
    of: 'luma' | 'grain',
    ax: number,
    ay: number,
    bx: number,
    by: number,
    mirror: 1 | -1,
    every: number,
  ): { r: number; varies: number } {
    const { width, height } = this.planes;
    const plane = this.planes[of];
    const top = Math.max(-HALF, -ay, -by);
    const bottom = Math.min(HALF, height - 1 - ay, height - 1 - by);
    const left = Math.max(-HALF, -ax, mirror === 1 ? -bx : bx - width + 1);
    const right = Math.min(HALF, width - 1 - ax, mirror === 1 ? width - 1 - bx : bx);
    const rows = Math.max(0, Math.floor((bottom - top) / every) + 1);
    const n = Math.max(0, right - left + 1) * rows;
    if (n * every < HALF * HALF) return { r: 0, varies: 0 };
    let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
    for (let v = top; v <= bottom; v += every) {
      let i = (ay + v) * width + ax + left;
      let j = (by + v) * width + bx + mirror * left;
      for (let u = left; u <= right; u++, i++, j += mirror) {
        const [p, q] = [plane[i], plane[j]];
        sa += p;
        sb += q;
        saa += p * p;
        sbb += q * q;
        sab += p * q;
      }
    }
    const [va, vb] = [saa - (sa * sa) / n, sbb - (sb * sb) / n];
    const size = Math.sqrt(Math.max(0, va * vb));
    return { r: size > 0 ? (sab - (sa * sb) / n) / size : 0, varies: Math.sqrt(Math.max(0, Math.min(va, vb)) / n) };
  }
}
