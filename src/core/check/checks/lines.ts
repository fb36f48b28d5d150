import { quantile } from '../../raster/luma.ts';
import type { Contour } from '../../repair/lift/contour.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';

/** Directions in which a line may meet a border: up to so far from straight on, and steps between, radians. */
const SLANT = 1.15;
const STEP = 0.08;
/** px outside, and inside, over which a line is followed; and the least of that which has to be there inside. */
const OUTSIDE = [3, 20] as const;
const INSIDE = [2, 16] as const;
const ENOUGH = 9;
/** px across a line over which its contrast is told. */
const WIDTH = 3;
/** Levels of contrast that a line has outside at the least, and how many times what three in four places show. */
const CONTRAST = 13;
const OFTEN = 0.75;
const USUAL = 2.8;
/** Share of its strength that each third of a line keeps. */
const STEADY = 0.75;
/** px by which a line may be shifted and still be the same, and by which it is looked for; and radians that it may turn. */
const SAME = 1.5;
const BENT = 14;
/** px aside between which a line is told to be bent. */
const LEAST_BENT = 2.7;
const MOST_BENT = 11;
const TURN = 0.1;
const TURNED = 0.05;
/** Shares of its strength outside: as much goes on, as much has to be found beside it, and as little is gone. */
const GOES_ON = 0.5;
const SHIFTED = 0.6;
const GONE = 0.12;

/** How fast lightness changes in a window, levels a px, and what each px of it is. */
interface Seen {
  across: Float32Array;
  down: Float32Array;
  what: Uint8Array;
  width: number;
  height: number;
}

function seenOf({ luma, what, width, height }: Place): Seen {
  const across = new Float32Array(luma.length);
  const down = new Float32Array(luma.length);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      across[i] = (luma[i + 1] - luma[i - 1]) / 2;
      down[i] = (luma[i + width] - luma[i - width]) / 2;
    }
  return { across, down, what, width, height };
}

/** A way from a place in one direction, and which of its px count. */
interface Way {
  x: number;
  y: number;
  dx: number;
  dy: number;
  from: number;
  to: number;
  /** what the px have to be: 1 covered, 0 not */
  on: 0 | 1;
}

/** Mean contrast across a way, levels; NaN where too little of it counts. */
function contrastAlong(seen: Seen, { x, y, dx, dy, from, to, on }: Way, least: number): number {
  const { across, down, what, width, height } = seen;
  let [sum, n] = [0, 0];
  for (let t = from; t <= to; t++) {
    const p = Math.floor(x + dx * t);
    const q = Math.floor(y + dy * t);
    if (p < 1 || q < 1 || p >= width - 1 || q >= height - 1) break;
    const i = q * width + p;
    if (what[i] !== on) break;
    sum += down[i] * dx - across[i] * dy;
    n++;
  }
  return n >= least ? (WIDTH * sum) / n : NaN;
}

interface Line {
  x: number;
  y: number;
  /** direction outwards, radians */
  angle: number;
  strength: number;
}

/** Strongest line outwards from places a px apart along a border. */
function strongest(seen: Seen, { count, x, y, nx, ny }: Contour): Line[] {
  const [from, to] = OUTSIDE;
  const whole = to - from + 1;
  return Array.from({ length: 2 * count }, (_, k): Line => {
    const i = k >> 1;
    const next = (i + 1) % count;
    const [px, py] = k % 2 ? [(x[i] + x[next]) / 2, (y[i] + y[next]) / 2] : [x[i], y[i]];
    const normal = Math.atan2(ny[i], nx[i]);
    const line: Line = { x: px, y: py, angle: normal, strength: 0 };
    for (let angle = normal - SLANT; angle <= normal + SLANT; angle += STEP) {
      const way: Way = { x: px, y: py, dx: Math.cos(angle), dy: Math.sin(angle), from, to, on: 0 };
      const strength = contrastAlong(seen, way, whole);
      if (Math.abs(strength) > Math.abs(line.strength)) [line.angle, line.strength] = [angle, strength];
    }
    return line;
  });
}

/** Straight lines that meet a border from outside: the strongest among those beside them, as strong in each third. */
function linesOutside(seen: Seen, contour: Contour): Line[] {
  const list = strongest(seen, contour);
  const n = list.length;
  const usual = quantile(
    Float32Array.from(list, (l) => Math.abs(l.strength)),
    OFTEN,
  );
  const [from, to] = OUTSIDE;
  const third = (to - from + 1) / 3;
  return list.filter(({ x, y, angle, strength }, i) => {
    const size = Math.abs(strength);
    if (size < Math.max(CONTRAST, USUAL * usual)) return false;
    for (let d = -6; d <= 6; d++) {
      const other = Math.abs(list[(i + d + n) % n].strength);
      if (other > size || (other === size && d < 0)) return false;
    }
    const [dx, dy] = [Math.cos(angle), Math.sin(angle)];
    return [0, 1, 2].every((k) => {
      const way: Way = { x, y, dx, dy, from: from + k * third, to: from + (k + 1) * third - 1, on: 0 };
      return contrastAlong(seen, way, third) / strength > STEADY;
    });
  });
}

/** What becomes of a line inside: the share of it that goes on, and px by which it does so aside; null where it simply goes on. */
function judged(seen: Seen, { x, y, angle, strength }: Line): { aside: number; share: number } | null {
  const [from, to] = INSIDE;
  let [best, aside, near] = [0, 0, 0];
  let known = false;
  const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
  for (let shift = -BENT; shift <= BENT; shift += 0.75)
    for (let turn = -TURN; turn <= TURN; turn += TURNED) {
      // Led on from where it was seen, so that a turn is one about the border.
      const [dx, dy] = [-Math.cos(angle + turn), -Math.sin(angle + turn)];
      const way: Way = { x: x + nx * shift, y: y + ny * shift, dx, dy, from, to, on: 1 };
      const there = contrastAlong(seen, way, ENOUGH);
      if (there !== there) continue;
      known = true;
      // Seen the other way round, left is right.
      const share = -there / strength;
      if (Math.abs(shift) <= SAME) near = Math.max(near, share);
      if (share > best) [best, aside] = [share, shift];
    }
  if (!known || near >= GOES_ON) return null;
  const off = Math.abs(aside);
  // What lies farther aside is another line, and this one may end there.
  if (best >= SHIFTED && off > SAME) return off >= LEAST_BENT && off <= MOST_BENT ? { aside, share: best } : null;
  return near < GONE ? { aside: 0, share: near } : null;
}

/** px around where a line meets the border that are shown. */
const SHOWN = 14;

/**
 * Lines that run straight up to a cover's border and do not go on behind it, or go on beside it.
 * Source: own; contrast along straight ways in all directions, as in a Hough transform.
 */
export function lines(place: Place): Sign[] {
  const seen = seenOf(place);
  return place.bands.flatMap(({ contour }) =>
    linesOutside(seen, contour).flatMap((line): Sign[] => {
      const found = judged(seen, line);
      if (!found) return [];
      const { x, y, strength } = line;
      const bent = found.aside !== 0;
      const px = Math.abs(found.aside);
      const size = 2 * SHOWN;
      return [
        {
          kind: bent ? 'bent-line' : 'broken-line',
          box: inPicture(place, { x: Math.round(x) - SHOWN, y: Math.round(y) - SHOWN, width: size, height: size }),
          figure: bent ? px : 100 * Math.max(0, found.share),
          unit: bent ? 'px' : '% continues',
          difference: 0.35 * Math.abs(strength),
          across: bent ? Math.max(2, px) : 3,
          along: 14,
          remedy: 'copy-along',
        },
      ];
    }),
  );
}
