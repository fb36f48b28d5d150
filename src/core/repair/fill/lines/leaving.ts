import { findRidges, joinRidges, lengthOf, type Ridge } from '../../../find/lines/ridges.ts';
import { refineStrand } from '../../../find/strand/strand.ts';
import type { TracedStrand } from '../../../find/strand/traced-strand.ts';
import type { Point } from '../../../mask/shapes.ts';
import { noiseLevel, quantile, type Plane } from '../../../raster/luma.ts';
import { courseOf, type Course } from './course.ts';
import { followed, type Ground } from './follow.ts';

/** px inside the edge in which lines are looked for. */
const STRIP = 120;
/** Blurs under which they are, about half their width; px of one that must be seen in the strip, and px from the edge at which it may begin. */
const SIGMAS = [1, 2, 4];
const SEEN = 48;
const NEAR = 6;
/** Longer side in px from which on all that counts; of smaller pictures as much less, down to half. */
const USUAL = 2400;
/** px along the edge per px inside it: what runs along the edge does not leave there, and what is level, layouts carry on. */
const STEEPEST = 3;
const LEVEL = 0.04;
/** px of a line by which its course is told, at least, at most, and as a share of how far it goes on. */
const TOLD = { least: 72, most: 600, share: 1.2 };
/** Share of the picture's longer side that one is long at the least. */
const LONG = 0.08;
/** Width in px, and softness as a share of it and in px, up to which it is a thin line. */
const WIDEST = 16;
const SOFT = { share: 0.25, px: 0.7 };
/** Levels, and times the noise, by which it stands out; share of it along which it does; and px by which it may stray from its course. */
const CONTRAST = { least: 45, noise: 6 };
const CERTAIN = 0.85;
const STRAYS = { px: 0.25, width: 0.01 };
/** Share of its contrast by which the ground beside it may change along it, and from one side to the other. */
const CALM = { along: 0.1, sides: 0.18 };
/** Most lines that are carried on: more of them are a texture. */
const MOST = 12;
/** Blurs and px that another line is away at the least: nearer it is the rim of the first. */
const APART = { blurs: 3, px: 4 };
/** Share of its strength from which on another is of its kind: what such a one goes across is a mesh. */
const LIKE = 0.4;

/** A thin line that leaves a picture, in px inside the edge and px along it. */
export interface Leaving {
  /** all of it that was followed, from the edge on */
  points: Point[];
  /** where it runs beyond the edge */
  course: Course;
  /** as it was measured next to the edge */
  strand: TracedStrand;
}

/** How much the ground beside a line changes, levels: what differs some px on and aside, and from one side to the other, in three of four places at most. */
function unrest({ read }: Ground, { points, width }: TracedStrand): { along: number; sides: number } {
  const changes: number[] = [];
  const sides: number[] = [];
  for (let i = 3; i + 3 < points.length; i += 2) {
    const [a, b] = [points[i - 3], points[i + 3]];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const [nx, ny] = [-(b[1] - a[1]) / span, (b[0] - a[0]) / span];
    const at = ([x, y]: Point, side: 1 | -1, off: number) => {
      const d = side * (width / 2 + off);
      return read(x + nx * d, y + ny * d);
    };
    for (const side of [-1, 1] as const)
      changes.push(
        Math.abs(at(points[i], side, 3) - at(points[i], side, 8)),
        Math.abs(at(points[i], side, 4) - at(b, side, 5)),
      );
    sides.push(Math.abs(at(points[i], -1, 4) - at(points[i], 1, 4)));
  }
  return { along: quantile(changes, 0.75), sides: quantile(sides, 0.75) };
}

/** Whether what was measured is a thin line on calm ground. */
const isThin = ({ width, blur, contrast, certainty }: TracedStrand, noise: number): boolean =>
  width <= WIDEST &&
  blur <= SOFT.px + SOFT.share * width &&
  Math.abs(contrast) >= Math.max(CONTRAST.least, CONTRAST.noise * noise) &&
  certainty >= CERTAIN;

interface Crest extends Ridge {
  sigma: number;
}

/** All ridges of the strip, the strongest first. */
const ridgesIn = (strip: Plane): Crest[] =>
  SIGMAS.flatMap((sigma) =>
    joinRidges(findRidges(strip, { sigma, least: SEEN / 3 })).map((r) => ({ ...r, sigma })),
  ).sort((a, b) => b.strength - a.strength);

/** Those that reach the edge, from there on. */
const reachingEdge = (all: readonly Crest[], least: number): Crest[] =>
  all.flatMap(({ points, sigma, ...ridge }) => {
    const [first, last] = [points[0], points[points.length - 1]];
    const line = first[0] < last[0] ? points : points.slice().reverse();
    const [from, to] = [line[0], line[line.length - 1]];
    const isOut =
      from[0] <= NEAR + 2 * sigma &&
      lengthOf(line) >= least &&
      Math.abs(to[1] - from[1]) <= STEEPEST * (to[0] - from[0]);
    return isOut ? [{ ...ridge, points: line, sigma }] : [];
  });

/**
 * Thin lines on calm ground that leave a picture at an edge: wires, rails, ropes.
 * @param ground luma, levels of 255, by px inside the edge and px along it
 * @param size px that the picture reaches inside, and of the edge
 * @param beyond px that is added at the edge
 * Source: crest lines after Steger 1998 (see `find/lines/ridges`); constants from made-up pictures, photographs and own tests.
 */
export function linesLeaving(ground: Ground, size: { inside: number; along: number }, beyond: number): Leaving[] {
  const depth = Math.min(STRIP, size.inside);
  const strip: Plane = { width: depth, height: size.along, data: new Float32Array(depth * size.along) };
  for (let s = 0, i = 0; s < size.along; s++)
    for (let n = 0; n < depth; n++, i++) strip.data[i] = ground.read(n + 0.5, s + 0.5);
  const noise = noiseLevel(strip);
  const long = Math.max(size.inside, size.along);
  const scale = Math.min(1, Math.max(0.5, long / USUAL));
  const told = Math.min(TOLD.most, Math.max(TOLD.least * scale, TOLD.share * beyond));
  const out: Leaving[] = [];
  const ridges = ridgesIn(strip);
  for (const { points, sigma, strength } of reachingEdge(ridges, SEEN * scale)) {
    if (points.some((p) => !ground.isKnown(...p))) continue;
    const isRim = ({ course, strand }: Leaving) =>
      Math.abs(course.at(points[0][0]) - points[0][1]) < strand.width / 2 + APART.blurs * sigma + APART.px;
    if (out.some(isRim)) continue;
    const all = followed(ground, points, 2 * sigma);
    const near = all.filter(([n]) => n <= told);
    if (lengthOf(near) < TOLD.least * scale || lengthOf(all) < LONG * long) continue;
    const strand = refineStrand(ground.read, everyTwo(near), 2 * sigma);
    if (!isThin(strand, noise)) continue;
    const rest = unrest(ground, strand);
    const stands = Math.abs(strand.contrast);
    if (rest.along > CALM.along * stands || rest.sides > CALM.sides * stands) continue;
    const course = courseOf(strand.points);
    const slope = Math.abs(course.slope(0));
    if (course.strays > STRAYS.px + STRAYS.width * strand.width || slope > STEEPEST || slope < LEVEL) continue;
    if (ridges.some((r) => r.strength > LIKE * strength && isAcross(r, course, strand.width))) continue;
    out.push({ points: all, course, strand });
  }
  const alone = out.filter((line) => !out.some((other) => cross(line, other)));
  return alone.length > MOST ? [] : alone;
}

/** Whether a ridge goes across a line. */
function isAcross({ points }: Ridge, course: Course, width: number): boolean {
  const away = points.map(([n, s]) => s - course.at(n));
  const clear = width + APART.px;
  return Math.min(...away) < -clear && Math.max(...away) > clear;
}

/** Whether two lines cross somewhere inside, as those of a mesh do. */
function cross(a: Leaving, b: Leaving): boolean {
  if (a === b) return false;
  const ends = [a, b].map(({ points }) => points[points.length - 1][0]);
  const inside = Math.min(...ends);
  const along = ({ points }: Leaving) => (points.find(([n]) => n >= inside) ?? points[points.length - 1])[1];
  return (a.course.at(0) - b.course.at(0)) * (along(a) - along(b)) <= 0;
}

/** A line with a point every 2 px. */
function everyTwo(points: readonly Point[]): Point[] {
  const out: Point[] = [];
  for (let i = 1; i < points.length; i++) {
    const [a, b] = [points[i - 1], points[i]];
    const last = out[out.length - 1];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const start = last ? 2 - Math.hypot(a[0] - last[0], a[1] - last[1]) : 0;
    for (let t = Math.max(0, start); t < span; t += 2)
      out.push([a[0] + ((b[0] - a[0]) * t) / span, a[1] + ((b[1] - a[1]) * t) / span]);
  }
  return out;
}
