import type { Point } from '../../../mask/shapes.ts';
import { refineStrand } from '../strand.ts';
import type { TracedStrand } from '../traced-strand.ts';
import { withReaches } from '../strand-cover.ts';
import type { Course } from './course.ts';
import { place, STEP, type Family } from './family.ts';

/** px over which what is seen decides whether a strand is there. */
const SIGHT = 60;
/** px over which a strand is supposed where it is not seen. */
const BRIDGED = 300;
/** Share of places that must be seen there. */
const SEEN = 0.45;
/** Levels by which a place may differ from the strand's tone so that the strand could lie there unseen. */
const ALIKE = 14;
/** px from the picture's edge within which a strand goes on out of the picture. */
const AT_EDGE = 16;

/** A strand whose ends that come near the picture's edge are led beyond it, so that no stumps are left there. */
function toTheEdge(strand: TracedStrand, { width, height }: Family['size']): TracedStrand {
  const points = strand.points.slice();
  const widths = strand.widths.slice();
  const unsure = strand.unsure.slice();
  for (const end of [0, 1] as const) {
    const n = points.length;
    const [tip, back] = end ? [points[n - 1], points[Math.max(0, n - 9)]] : [points[0], points[Math.min(n - 1, 8)]];
    if (Math.min(tip[0], tip[1], width - tip[0], height - tip[1]) > AT_EDGE) continue;
    const d = Math.hypot(tip[0] - back[0], tip[1] - back[1]) || 1;
    const on: Point = [
      tip[0] + ((tip[0] - back[0]) / d) * 2 * AT_EDGE,
      tip[1] + ((tip[1] - back[1]) / d) * 2 * AT_EDGE,
    ];
    if (end) {
      points.push(on);
      widths.push(widths[n - 1]);
      unsure.push(unsure[n - 1]);
    } else {
      points.unshift(on);
      widths.unshift(widths[0]);
      unsure.unshift(unsure[0]);
    }
  }
  return { ...strand, points, widths, unsure };
}

/** Steps at which a course is seen for a good part of what lies around. */
function inSight(c: Course): Uint8Array {
  const reach = Math.round(SIGHT / STEP / 2);
  const there = new Uint8Array(c.seen.length);
  for (let s = c.from; s <= c.to; s++) {
    let seen = 0;
    let n = 0;
    for (let t = Math.max(c.from, s - reach); t <= Math.min(c.to, s + reach); t++, n++) seen += c.seen[t];
    if (seen / n >= SEEN) there[s] = 1;
  }
  return there;
}

/**
 * A course with what is not in sight put where it must be, evenly between what is; and where it lies: in sight, over
 * short stretches between, and wherever the picture has its own tone, so that it would not be seen.
 */
function interpolated(f: Family, c: Course): { v: Float32Array; there: Uint8Array } {
  const sight = inSight(c);
  const there = sight.slice();
  const v = c.v.slice();
  const base = c.expected ?? new Float32Array(c.v.length);
  let last = -1;
  const fill = (a: number, b: number) => {
    const [p, q] = [a < 0 ? b : a, b > c.to ? a : b];
    if (p < 0 || p > c.to) return;
    for (let s = Math.max(c.from, a + 1); s < Math.min(c.to + 1, b); s++) {
      const t = q > p ? (s - p) / (q - p) : 0;
      v[s] = base[s] + (c.v[p] - base[p]) * (1 - t) + (c.v[q] - base[q]) * t;
      const [x, y] = place(f, s, v[s]);
      // A strand goes on through a short stretch in which it cannot be told from its ground.
      const short = a >= 0 && b <= c.to && b - a <= BRIDGED / STEP;
      if (short || Math.abs(f.read(x, y) - f.tone) < ALIKE) there[s] = 1;
    }
  };
  for (let s = c.from; s <= c.to; s++) {
    if (!sight[s]) continue;
    if (s - last > 1) fill(last, s);
    last = s;
  }
  fill(last, c.to + 1);
  return { v, there };
}

/** The pieces of a course that are really seen, or must be there, refined and measured. */
export function pieces(f: Family, c: Course): TracedStrand[] {
  const out: TracedStrand[] = [];
  let line: Point[] = [];
  const finish = () => {
    const { read, scale } = f.full;
    const size = { width: f.size.width * scale, height: f.size.height * scale };
    const whole = line.map(([x, y]): Point => [x * scale, y * scale]);
    if (line.length * STEP >= 24)
      out.push(withReaches([read], toTheEdge(refineStrand(read, whole, f.width * scale), size)));
    line = [];
  };
  const { v, there } = interpolated(f, c);
  for (let s = c.from; s <= c.to; s++) {
    if (there[s]) line.push(place(f, s, v[s]));
    else finish();
  }
  finish();
  return out;
}
