import { nearCover } from '../../../mask/near.ts';
import { away, Eye, type Colour, type Ground, type Way } from './ground-eye.ts';

/** px beside a cover within which an edge that goes under it is looked for. */
const RING = 4;
/** Levels a px by which colour changes across an edge at the least, and how much of that goes one way. */
const STEEP = 5;
const COHERENT = 0.35;
/** px under a cover from which on an edge is carried on: what is shorter is joined anyway. And up to which. */
const SHORTEST = 14;
const LONGEST = 160;
/** px along an edge from where it is met to the cover, at the most. */
const TO_COVER = 40;
/** px beside an edge that tell what lies on either side, those that have to tell the same, and by how much they may differ more. */
const SIDES = [2, 4] as const;
const FARTHER = [5, 8] as const;
const SHARPER = 1.35;
/** Levels by which both sides differ at the least. */
const CONTRAST = 40;
/** px from a hidden edge to the cover's rim at the most. */
export const DEEPEST = 24;
/** Share of an edge's way under a cover along which both its rims are like its sides, and px without after which it has ended. */
const SAME = 0.6;
const ENDED = 6;
/** How a line is turned and moved while it is fitted to what is seen of an edge: degrees and px, coarse and fine. */
const FITS = [
  { most: 16, by: 1, moved: 2.5, step: 0.5 },
  { most: 0.75, by: 0.25, moved: 0.375, step: 0.125 },
];
/** px of an edge that are looked at on either side of a cover, have to be seen in all, and on each side for it to come out. */
const SEEN = 30;
const LEAST_SEEN = 6;
const COMES_OUT = 4;
/** px on both sides of a line between which its step is read, and share of the contrast that it has where the edge goes on. */
export const STEP = 1;
const GOES_ON = 0.4;
/** px without a step after which an edge has ended. */
const MISSED = 3;
/** px by which an edge may bend; px beyond what is seen on the line, and to either side, where it is looked for if it does. */
const BENT = 0.4;
const ON = 8;
/** px of it that tell whether it bends. */
const TELLING = 18;
const ASIDE = 3;
/** px over which the step of a sharp edge goes, at the most. */
const SHARP = 3;
/** px that two edges may lie apart to be taken for one, and share of the way. */
const ONE = 4;
const ALONG = 0.4;
/** px of a cell in which an edge is fitted once, and that a place may be off an edge that was found. */
const CELL = 3;
const ON_IT = 1.5;

/** A straight edge, and where along it a cover hides it. Its normal (−uy, ux) points to `right`. */
export interface StraightEdge {
  x: number;
  y: number;
  ux: number;
  uy: number;
  /** px from (x, y) along (ux, uy) where it is hidden, from and to */
  from: number;
  to: number;
  /** whether it is seen on both sides of the cover, and for how many px */
  out: boolean;
  before: number;
  after: number;
  /** px over which one side goes over into the other */
  soft: number;
  left: Colour;
  right: Colour;
  /** how much of it is seen, px */
  seen: number;
}

/** Which way an edge runs at a pixel, from what is known of the 9 around; null where there is none. */
function edgeAt({ image, width, colours, cover }: Ground, i: number): Way | null {
  let [xx, yy, xy, n] = [0, 0, 0, 0];
  for (let v = -1; v <= 1; v++)
    for (let u = -1; u <= 1; u++) {
      const j = i + v * width + u;
      if (cover[j] || cover[j - 1] || cover[j + 1] || cover[j - width] || cover[j + width]) continue;
      n++;
      for (let c = 0; c < colours; c++) {
        const p = 4 * j + c;
        const dx = (image[p + 4] - image[p - 4]) / 2;
        const dy = (image[p + 4 * width] - image[p - 4 * width]) / 2;
        xx += dx * dx;
        yy += dy * dy;
        xy += dx * dy;
      }
    }
  const half = (xx + yy) / 2;
  const apart = Math.hypot((xx - yy) / 2, xy);
  if (n < 3 || half + apart < STEEP * STEEP * n * colours || apart < COHERENT * half) return null;
  const angle = Math.atan2(2 * xy, xx - yy) / 2;
  return [Math.sin(angle), -Math.cos(angle)];
}

/** A line that an edge may lie on, and what is seen of it there. */
interface Line {
  at: Way;
  way: Way;
  /** px along it where the cover begins and ends */
  hidden: [number, number];
  /** px that are seen, and how much of the contrast their steps have together */
  seen: number;
  sum: number;
  /** px that it goes on for before the cover and after it */
  before: number;
  after: number;
}

/** px along a line, counted from the cover's rim outwards, before it and after it. */
const outwards = ({ hidden }: Pick<Line, 'hidden'>, after: boolean, k: number): number =>
  after ? hidden[1] + k : hidden[0] - 1 - k;

function lineThrough(eye: Eye, at: Way, way: Way, left: Colour, right: Colour): Line | null {
  const hidden = eye.hidden(at, way, TO_COVER, LONGEST);
  if (!hidden || hidden[1] - hidden[0] < SHORTEST) return null;
  const least = GOES_ON * away(left, right);
  const tone = eye.tone(left, right);
  const line: Line = { at, way, hidden, seen: 0, sum: 0, before: 0, after: 0 };
  for (const after of [false, true]) {
    for (let k = 0, missed = 0; k < SEEN && missed < MISSED; k++) {
      const t = outwards(line, after, k);
      const [x, y] = [at[0] + t * way[0], at[1] + t * way[1]];
      const step = tone(x - STEP * way[1], y + STEP * way[0]) - tone(x + STEP * way[1], y - STEP * way[0]);
      if (step < least) missed++;
      if (!(step >= least)) continue;
      missed = 0;
      line.sum += Math.min(1.2, (GOES_ON * step) / least);
      line.seen++;
      line[after ? 'after' : 'before'] = k + 1;
    }
  }
  return line;
}

/** The line near a place that most is seen of; null where too little is. */
function fitted(eye: Eye, at: Way, way: Way, left: Colour, right: Colour): Line | null {
  let best: Line | null = null;
  let [from, along] = [at, way];
  for (const { most, by, moved, step } of FITS) {
    for (let turn = -most; turn <= most; turn += by) {
      const angle = (turn * Math.PI) / 180;
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      const turned: Way = [c * along[0] - s * along[1], s * along[0] + c * along[1]];
      for (let off = -moved; off <= moved; off += step) {
        const line = lineThrough(eye, [from[0] - off * turned[1], from[1] + off * turned[0]], turned, left, right);
        if (line && line.sum > (best?.sum ?? 0)) best = line;
      }
    }
    if (!best || best.seen < LEAST_SEEN) return null;
    [from, along] = [best.at, best.way];
  }
  return best;
}

/** By how many px an edge bends over as far as it is seen, on the side where that is more. */
function bendOf(eye: Eye, line: Line, left: Colour, right: Colour): number {
  const contrast = away(left, right);
  const tone = eye.tone(left, right);
  const { at, way } = line;
  let most = 0;
  for (const after of [false, true]) {
    const offs: number[] = [];
    // What has bent away is not seen on the line any more.
    for (let k = 0; k < (after ? line.after : line.before) + ON; k++) {
      const t = outwards(line, after, k);
      const [x, y] = [at[0] + t * way[0], at[1] + t * way[1]];
      const toneAt = (off: number) => tone(x - off * way[1], y + off * way[0]);
      let [sum, weight] = [0, 0];
      for (let off = -ASIDE; off <= ASIDE; off += 0.5) {
        const step = toneAt(off + 0.5) - toneAt(off - 0.5);
        if (step > 0.12 * contrast) [sum, weight] = [sum + off * step, weight + step];
      }
      if (weight > 0.3 * contrast) offs.push(sum / weight);
    }
    const third = Math.floor(offs.length / 3);
    if (3 * third < TELLING) continue;
    const mean = (from: number) => offs.slice(from, from + third).reduce((a, b) => a + b, 0) / third;
    most = Math.max(most, Math.abs((mean(0) + mean(offs.length - third)) / 2 - mean(third)));
  }
  return most;
}

/** px along a hidden edge up to which both the cover's rims are like its sides; null where they are along too little of it. */
function likeBothSides(eye: Eye, at: Way, way: Way, [from, to]: Way, left: Colour, right: Colour): number | null {
  let last = from;
  let same = 0;
  for (let t = Math.ceil(from); t <= to && t - last <= ENDED; t++) {
    const [x, y] = [at[0] + t * way[0], at[1] + t * way[1]];
    const r = eye.rim(x, y, [-way[1], way[0]], DEEPEST);
    const l = eye.rim(x, y, [way[1], -way[0]], DEEPEST);
    if (!r || !l || away(r, right) >= away(r, left) || away(l, left) >= away(l, right)) continue;
    same++;
    last = t;
  }
  return last - from >= SHORTEST && same >= SAME * (last - from) ? last : null;
}

/** The edge that is seen at a place and goes under the cover along a way; null where it is none to carry on, undefined where there is none at all. */
function edgeFrom(eye: Eye, at: Way, way: Way): StraightEdge | null | undefined {
  const rough = eye.hidden(at, way, TO_COVER, LONGEST);
  if (!rough || rough[1] - rough[0] < SHORTEST) return undefined;
  const here = [-2, -1, 0, 1, 2].map((k): Way => [at[0] + k * way[0], at[1] + k * way[1]]);
  const about = [eye.beside(here, [way[1], -way[0]], SIDES), eye.beside(here, [-way[1], way[0]], SIDES)] as const;
  if (!(away(...about) >= CONTRAST) || likeBothSides(eye, at, way, rough, ...about) === null) return undefined;
  const line = fitted(eye, at, way, ...about);
  if (!line) return null;
  const [x, y] = line.at;
  const [ux, uy] = line.way;
  const places = [false, true].flatMap((after) =>
    Array.from({ length: after ? line.after : line.before }, (_, k): Way => {
      const t = outwards(line, after, k);
      return [x + t * ux, y + t * uy];
    }),
  );
  const sides = (px: readonly [number, number]) =>
    [eye.beside(places, [uy, -ux], px), eye.beside(places, [-uy, ux], px)] as const;
  const [left, right] = sides(SIDES);
  const soft = (2 * STEP * line.seen) / line.sum;
  // A soft edge goes on to change farther off.
  if (!(away(left, right) >= CONTRAST) || soft > SHARP || away(...sides(FARTHER)) > SHARPER * away(left, right))
    return null;
  if (bendOf(eye, line, left, right) > BENT) return null;
  const [from, end] = line.hidden;
  const last = likeBothSides(eye, line.at, line.way, line.hidden, left, right);
  if (last === null) return null;
  const out = line.before >= COMES_OUT && line.after >= COMES_OUT;
  return {
    x,
    y,
    ux,
    uy,
    from,
    to: out ? end : last,
    out,
    before: line.before,
    after: line.after,
    soft,
    left,
    right,
    seen: line.sum,
  };
}

/** Whether a place lies on an edge that is known, as far as that is looked at. */
function isOn({ x, y, ux, uy, from, to }: StraightEdge, px: number, py: number): boolean {
  const [rx, ry] = [px - x, py - y];
  const along = rx * ux + ry * uy;
  return along > from - SEEN && along < to + SEEN && Math.abs(rx * uy - ry * ux) < ON_IT;
}

/** Whether an edge lies along another where that is hidden. */
function isSame(a: StraightEdge, b: StraightEdge): boolean {
  let [n, near] = [0, 0];
  for (let t = a.from; t <= a.to; t += 2, n++) {
    const [rx, ry] = [a.x + t * a.ux - b.x, a.y + t * a.uy - b.y];
    const along = rx * b.ux + ry * b.uy;
    if (along > b.from - ONE && along < b.to + ONE && Math.abs(rx * b.uy - ry * b.ux) < ONE) near++;
  }
  return near > ALONG * n;
}

/**
 * Sharp straight edges that a thin cover hides over more than they can be joined across: those of wires that cross them at a small angle.
 * They are seen beside the cover, on one side of it or both, and its rims are like their sides all along. Those that more is seen of
 * come first.
 * @param covered the cover's pixels as y × width + x
 * Source: own; directions by the structure tensor (Bigün & Granlund 1987, from memory).
 */
export function straightEdges(ground: Ground, covered: Int32Array): StraightEdge[] {
  const { width, height, cover } = ground;
  const eye = new Eye(ground);
  const near = nearCover(cover, width, height, covered, RING);
  const found: StraightEdge[] = [];
  // Of px close together that see the same edge one is enough.
  const tried = [1, -1].map(() => new Uint8Array(Math.ceil(width / CELL) * Math.ceil(height / CELL)));
  for (let y = 2; y < height - 2; y++)
    for (let x = 2; x < width - 2; x++) {
      const i = y * width + x;
      const way = near[i] && !cover[i] ? edgeAt(ground, i) : null;
      if (!way) continue;
      const cell = Math.floor(y / CELL) * Math.ceil(width / CELL) + Math.floor(x / CELL);
      for (const [n, sign] of [1, -1].entries()) {
        if (tried[n][cell] || found.some((edge) => isOn(edge, x, y))) continue;
        const looked = edgeFrom(eye, [x, y], [sign * way[0], sign * way[1]]);
        if (looked === undefined) continue;
        tried[n][cell] = 1;
        if (looked) found.push(looked);
      }
    }
  found.sort((a, b) => b.seen - a.seen);
  return found.filter((edge, n) => !found.slice(0, n).some((other) => isSame(edge, other)));
}
