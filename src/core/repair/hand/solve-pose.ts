import { blur } from '../../raster/planes.ts';
import { halfPlane, lumaPlane, type Plane } from '../../raster/luma.ts';
import { boundsOfShapes, rasterise, type Point, type Shape } from '../../mask/shapes.ts';
import { growWithin, isEmpty } from '../../raster/raster.ts';
import type { Beneath } from '../method.ts';
import type { Pose } from './donor.ts';

/** The pose in which a piece agrees best with the picture around its place. */
export interface SolvedPose {
  /** where the middle of the piece's box comes to lie */
  at: Point;
  turn: number;
  scale: number;
  mirror: Pose['mirror'];
  /** normalised correlation, −1…1; under 0.5 little speaks for it */
  agreement: number;
}

/** Options of {@link solvePose}. */
export interface PoseOptions {
  /** px around the rough place that are searched; half the piece's size by default */
  reach?: number;
  /** places whose pixels say nothing, such as the fault itself */
  ignore?: readonly Shape[];
  /** most that is turned either way, degrees; 180 by default */
  turn?: number;
  /** most that it is enlarged or shrunk; 2 by default */
  scale?: number;
  /** whether it may be mirrored; true by default */
  mirror?: boolean;
}

/** Longest side of the piece at the coarsest level, px. */
const COARSE = 22;
const KEPT = 24;

interface Template {
  size: number;
  /** places relative to the middle of the piece, px of this level, and their luma */
  x: Float32Array;
  y: Float32Array;
  v: Float32Array;
  /** slope of the piece at each place */
  gx: Float32Array;
  gy: Float32Array;
}

interface Candidate {
  x: number;
  y: number;
  turn: number;
  scale: number;
  flip: boolean;
  agreement: number;
}

/** Every pixel of the piece at one level; thinned to at most `most` of them. */
function templateOf(luma: Plane, mask: Plane, middle: Point, most: number): Template {
  const places: number[] = [];
  for (let y = 1; y < luma.height - 1; y++)
    for (let x = 1; x < luma.width - 1; x++) if (mask.data[y * luma.width + x] > 0.5) places.push(y * luma.width + x);
  const step = Math.max(1, places.length / most);
  const n = Math.floor(places.length / step);
  const t: Template = {
    size: n,
    x: new Float32Array(n),
    y: new Float32Array(n),
    v: new Float32Array(n),
    gx: new Float32Array(n),
    gy: new Float32Array(n),
  };
  for (let k = 0; k < n; k++) {
    const i = places[Math.floor(k * step)];
    t.x[k] = (i % luma.width) + 0.5 - middle[0];
    t.y[k] = Math.floor(i / luma.width) + 0.5 - middle[1];
    t.v[k] = luma.data[i];
    t.gx[k] = (luma.data[i + 1] - luma.data[i - 1]) / 2;
    t.gy[k] = (luma.data[i + luma.width] - luma.data[i - luma.width]) / 2;
  }
  return t;
}

const NONE = Number.NaN;

/** Bilinear value of a plane; not a number beyond it. */
function at({ width, height, data }: Plane, x: number, y: number): number {
  const [sx, sy] = [x - 0.5, y - 0.5];
  const [u, v] = [Math.floor(sx), Math.floor(sy)];
  if (u < 0 || v < 0 || u + 1 >= width || v + 1 >= height) return NONE;
  const [fx, fy] = [sx - u, sy - v];
  const i = v * width + u;
  return (
    (data[i] * (1 - fx) + data[i + 1] * fx) * (1 - fy) + (data[i + width] * (1 - fx) + data[i + width + 1] * fx) * fy
  );
}

/** Normalised correlation of the piece in a pose with the picture; places that are ignored or beyond it do not count. */
function correlate(t: Template, scene: Plane, c: Candidate): number {
  const r = (c.turn * Math.PI) / 180;
  const [cos, sin] = [Math.cos(r) * c.scale, Math.sin(r) * c.scale];
  let [n, sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0, 0];
  for (let k = 0; k < t.size; k++) {
    const px = c.flip ? -t.x[k] : t.x[k];
    const b = at(scene, c.x + cos * px - sin * t.y[k], c.y + sin * px + cos * t.y[k]);
    if (b !== b) continue;
    const a = t.v[k];
    n++;
    sa += a;
    sb += b;
    saa += a * a;
    sbb += b * b;
    sab += a * b;
  }
  if (n < 0.35 * t.size) return -1;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return va > 1e-6 * n && vb > 1e-6 * n ? (sab - (sa * sb) / n) / Math.sqrt(va * vb) : -1;
}

/**
 * Gauss–Newton on shift, turn, scale, contrast and brightness together: the piece is compared with the picture at its places, and
 * the picture's slope there says how the pose has to change.
 */
function refine(t: Template, scene: Plane, start: Candidate, rounds: number): Candidate {
  let c = { ...start };
  for (let round = 0; round < rounds; round++) {
    const r = (c.turn * Math.PI) / 180;
    const [cos, sin] = [Math.cos(r) * c.scale, Math.sin(r) * c.scale];
    // Unknowns: x, y, turn (radians), scale (natural logarithm), gain, offset.
    const m = new Float64Array(36);
    const rhs = new Float64Array(6);
    const j = new Float64Array(6);
    let n = 0;
    for (let k = 0; k < t.size; k++) {
      const px = c.flip ? -t.x[k] : t.x[k];
      const ox = cos * px - sin * t.y[k];
      const oy = sin * px + cos * t.y[k];
      const [x, y] = [c.x + ox, c.y + oy];
      const b = at(scene, x, y);
      const gx = at(scene, x + 0.5, y) - at(scene, x - 0.5, y);
      const gy = at(scene, x, y + 0.5) - at(scene, x, y - 0.5);
      if (!(b === b && gx === gx && gy === gy)) continue;
      n++;
      j[0] = gx;
      j[1] = gy;
      j[2] = -gx * oy + gy * ox;
      j[3] = gx * ox + gy * oy;
      j[4] = -t.v[k];
      j[5] = -1;
      for (let p = 0; p < 6; p++) {
        rhs[p] -= j[p] * b;
        for (let q = 0; q <= p; q++) m[p * 6 + q] += j[p] * j[q];
      }
    }
    if (n < 0.3 * t.size) break;
    const d = solveSymmetric(m, rhs, 6);
    if (!d) break;
    const limit = (v: number, most: number) => Math.min(most, Math.max(-most, v));
    const next: Candidate = {
      ...c,
      x: c.x + limit(d[0], 2),
      y: c.y + limit(d[1], 2),
      turn: c.turn + limit((d[2] * 180) / Math.PI, 5),
      scale: c.scale * Math.exp(limit(d[3], 0.1)),
    };
    next.agreement = correlate(t, scene, next);
    if (next.agreement < c.agreement - 1e-4) break;
    const still = Math.abs(d[0]) + Math.abs(d[1]) < 0.003 && Math.abs(d[2]) < 2e-5 && Math.abs(d[3]) < 2e-5;
    c = next;
    if (still) break;
  }
  return c;
}

/** Solves m d = rhs for a symmetric positive matrix given by its lower half (Cholesky); null when it is singular. */
function solveSymmetric(m: Float64Array, rhs: Float64Array, n: number): Float64Array | null {
  const l = new Float64Array(n * n);
  for (let i = 0; i < n; i++) {
    for (let k = 0; k <= i; k++) {
      let s = m[i * n + k] + (i === k ? 1e-9 * m[i * n + i] : 0);
      for (let q = 0; q < k; q++) s -= l[i * n + q] * l[k * n + q];
      if (i === k) {
        if (!(s > 0)) return null;
        l[i * n + i] = Math.sqrt(s);
      } else l[i * n + k] = s / l[k * n + k];
    }
  }
  const d = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    let s = rhs[i];
    for (let q = 0; q < i; q++) s -= l[i * n + q] * d[q];
    d[i] = s / l[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    let s = d[i];
    for (let q = i + 1; q < n; q++) s -= l[q * n + i] * d[q];
    d[i] = s / l[i * n + i];
  }
  return d;
}

/**
 * Finds the shift, turn, scale and mirroring in which a piece agrees best with the picture around a rough place: every pose is
 * tried on a small copy by normalised correlation, the best ones are refined from level to level, the last to parts of a pixel.
 *
 * @param piece the piece where it is lifted
 * @param rough where its middle should come to lie, roughly
 * @throws Error when the piece lies outside the picture or there is nothing to compare it with
 * Source: normalised correlation and Gauss–Newton alignment as in Lucas & Kanade 1981 and Evangelidis & Psarakis 2008, from memory.
 */
export function solvePose(
  beneath: Beneath,
  piece: readonly Shape[],
  rough: Point,
  { reach, ignore = [], turn = 180, scale = 2, mirror = true }: PoseOptions = {},
): SolvedPose {
  const box = boundsOfShapes(piece, beneath.width, beneath.height);
  if (isEmpty(box)) throw new Error('The piece lies outside the picture. Outline it on the picture.');
  const size = Math.max(box.width, box.height);
  const far = reach ?? Math.min(size / 2, 300);
  const room = Math.ceil((size * Math.SQRT1_2 + 2) * Math.max(1, scale) + far);
  const frame = growWithin(
    { x: Math.floor(rough[0]), y: Math.floor(rough[1]), width: 1, height: 1 },
    room,
    beneath.width,
    beneath.height,
  );
  if (isEmpty(frame)) throw new Error('The place lies outside the picture. Put the piece onto the picture.');
  const lifted = growWithin(box, 2, beneath.width, beneath.height);
  const middle: Point = [box.x + box.width / 2 - lifted.x, box.y + box.height / 2 - lifted.y];
  const plane = (data: Float32Array, b: { width: number; height: number }): Plane => ({
    width: b.width,
    height: b.height,
    data,
  });
  let pieceLuma = plane(lumaPlane(beneath.read(lifted)), lifted);
  let mask = plane(
    Float32Array.from(rasterise(piece, lifted).data, (v) => (v ? 1 : 0)),
    lifted,
  );
  let scene = plane(lumaPlane(beneath.read(frame)), frame);
  if (ignore.length) {
    const shut = rasterise(ignore, frame).data;
    for (let i = 0; i < shut.length; i++) if (shut[i]) scene.data[i] = NONE;
    const own = rasterise(ignore, lifted).data;
    for (let i = 0; i < own.length; i++) if (own[i]) mask.data[i] = 0;
  }
  const levels: Array<{ t: Template; scene: Plane; k: number }> = [];
  for (let k = 1, n = 0; ; k *= 2, n++) {
    const softScene = ignore.length ? scene : plane(blur(scene.data, scene.width, scene.height, 0.7), scene);
    const softPiece = ignore.length
      ? pieceLuma
      : plane(blur(pieceLuma.data, pieceLuma.width, pieceLuma.height, 0.7), pieceLuma);
    const most = size / k <= COARSE ? 400 : 6000;
    levels.push({ t: templateOf(softPiece, mask, [middle[0] / k, middle[1] / k], most), scene: softScene, k });
    if (size / k <= COARSE || n > 8) break;
    pieceLuma = halfPlane(pieceLuma);
    mask = halfPlane(mask);
    scene = halfPlane(scene);
  }
  const coarse = levels.at(-1)!;
  let best = everyPose(coarse, [(rough[0] - frame.x) / coarse.k, (rough[1] - frame.y) / coarse.k], far / coarse.k, {
    turn,
    scale,
    mirror,
  });
  if (!best.length) throw new Error('There is too little to compare the piece with at this place. Place it by hand.');
  for (let n = levels.length - 1; n >= 0; n--) {
    const { t, scene: s } = levels[n];
    if (n < levels.length - 1) best = best.map((c) => ({ ...c, x: c.x * 2, y: c.y * 2 }));
    best = best.map((c) => refine(t, s, { ...c, agreement: correlate(t, s, c) }, n === 0 ? 12 : 6));
    best.sort((a, b) => b.agreement - a.agreement);
    best = distinct(best).slice(0, Math.max(1, KEPT >> (2 * (levels.length - 1 - n) + 1)));
  }
  const [{ x, y, turn: turned, scale: sized, flip, agreement }] = best;
  return {
    at: [x + frame.x, y + frame.y],
    turn: ((((turned + 180) % 360) + 360) % 360) - 180,
    scale: sized,
    mirror: flip ? 'across' : 'none',
    agreement,
  };
}

function distinct(list: Candidate[]): Candidate[] {
  const out: Candidate[] = [];
  for (const c of list) {
    const near = (o: Candidate) =>
      o.flip === c.flip &&
      Math.hypot(o.x - c.x, o.y - c.y) < 1 &&
      Math.abs(o.turn - c.turn) < 2 &&
      Math.abs(o.scale / c.scale - 1) < 0.03;
    if (!out.some(near)) out.push(c);
  }
  return out;
}

function everyPose(
  { t, scene }: { t: Template; scene: Plane },
  rough: Point,
  far: number,
  { turn, scale, mirror }: { turn: number; scale: number; mirror: boolean },
): Candidate[] {
  const out: Candidate[] = [];
  const radius = Math.max(4, Math.sqrt(t.size / Math.PI));
  const turnStep = Math.max(3, (180 / Math.PI) * (1.6 / radius));
  const scaleStep = 1 + 1.6 / radius;
  const scales = [1];
  for (let s = scaleStep; s <= scale * 1.001; s *= scaleStep) scales.push(s, 1 / s);
  const turns = [0];
  for (let a = turnStep; a <= Math.min(180, turn); a += turnStep) turns.push(a, -a);
  const reach = Math.max(1, Math.ceil(far));
  // A few places of the piece decide first whether a pose is worth comparing whole.
  const few = thinned(t, 90);
  for (const flip of mirror ? [false, true] : [false]) {
    for (const sc of scales) {
      for (const a of turns) {
        let top: Candidate | undefined;
        for (let dy = -reach; dy <= reach; dy++) {
          for (let dx = -reach; dx <= reach; dx++) {
            const c: Candidate = { x: rough[0] + dx, y: rough[1] + dy, turn: a, scale: sc, flip, agreement: -1 };
            c.agreement = correlate(few, scene, c);
            if (!top || c.agreement > top.agreement) top = c;
          }
        }
        if (top && top.agreement > 0) out.push(top);
      }
    }
  }
  out.sort((a, b) => b.agreement - a.agreement);
  const whole = out.slice(0, 300).map((c) => ({ ...c, agreement: correlate(t, scene, c) }));
  whole.sort((a, b) => b.agreement - a.agreement);
  return whole.slice(0, KEPT);
}

function thinned(t: Template, most: number): Template {
  if (t.size <= most) return t;
  const pick = (list: Float32Array) =>
    Float32Array.from({ length: most }, (_, k) => list[Math.floor((k * t.size) / most)]);
  return { size: most, x: pick(t.x), y: pick(t.y), v: pick(t.v), gx: pick(t.gx), gy: pick(t.gy) };
}
