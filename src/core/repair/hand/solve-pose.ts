import { correlate, NONE, refine, templateOf, thinned, type Candidate, type Template } from './pose-template.ts';
import { blur } from '../../raster/planes.ts';
import { boxMean, halfPlane, lumaPlane, type Plane } from '../../raster/luma.ts';
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
  /** whether it agrees so well that it is hardly chance */
  sure: boolean;
}

/** How much better a turned, sized or mirrored pose has to agree than a plain shift: what comes again mostly stands upright. */
const SIMPLER = 0.12;
/** Agreement from which there is no doubt of a pose, however it is turned. */
const CERTAIN = 0.9;
/**
 * Agreement from which a free pose, and from which a plain shift is sure: there are far fewer of those that could agree by chance. `even` where tone
 * and contrast were evened, which hardly anything reaches by chance; `detail` what is left of that for a pose found by large tones.
 */
const SURE = { free: 0.75, shift: 0.5, even: 0.6, detail: 0.3 };

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
  const levels: Level[] = [];
  const even: Level[] = [];
  for (let k = 1, n = 0; ; k *= 2, n++) {
    const soft = (p: Plane) => (ignore.length ? p : plane(blur(p.data, p.width, p.height, 0.7), p));
    const most = size / k <= COARSE ? 400 : 6000;
    const level = (piecePlane: Plane, own: Plane): Level => ({
      t: templateOf(piecePlane, mask, [middle[0] / k, middle[1] / k], most),
      scene: own,
      k,
    });
    const [softPiece, softScene] = [soft(pieceLuma), soft(scene)];
    levels.push(level(softPiece, softScene));
    even.push(level(evened(softPiece), evened(softScene)));
    if (size / k <= COARSE || n > 8) break;
    pieceLuma = halfPlane(pieceLuma);
    mask = halfPlane(mask);
    scene = halfPlane(scene);
  }
  const ways = { near: [rough[0] - frame.x, rough[1] - frame.y] as Point, far, turn, scale, mirror };
  const first = bestPose(even, ways);
  let best = first && first.agreement >= SURE.even ? { ...first, sure: true } : null;
  if (!best) {
    // Large tones tell where there is little detail; that they agree is no proof unless the detail does, too.
    const other = bestPose(levels, ways);
    if (!other) throw new Error('There is too little to compare the piece with at this place. Place it by hand.');
    const alike = correlate(even[0].t, even[0].scene, other) >= SURE.detail;
    best = { ...other, sure: alike && other.agreement >= (other.plain ? SURE.shift : SURE.free) };
  }
  const { x, y, turn: turned, scale: sized, flip, agreement } = best;
  return {
    sure: best.sure,
    at: [x + frame.x, y + frame.y],
    turn: ((((turned + 180) % 360) + 360) % 360) - 180,
    scale: sized,
    mirror: flip ? 'across' : 'none',
    agreement,
  };
}

/** px of a level to which tone and contrast are evened, how little contrast counts as none, and how far one place may stand out. */
const EVENED = { reach: 6, flat: 3, most: 2.2 };

/**
 * A plane whose tone and contrast are the same all over: what a stain does to them is gone then, and a scratch stands out no more than
 * detail does. Source: local contrast normalisation (common practice).
 */
function evened({ width, height, data }: Plane): Plane {
  const mean = (of: (v: number) => number) =>
    boxMean({ width, height, data: data.map((v) => (v === v ? of(v) : 0)) }, EVENED.reach).data;
  const known = mean(() => 1);
  const tone = mean((v) => v);
  const square = mean((v) => v * v);
  const out = data.map((v, i) => {
    if (v !== v) return NONE;
    const m = tone[i] / known[i];
    const deviation = Math.sqrt(Math.max(0, square[i] / known[i] - m * m));
    return Math.max(-EVENED.most, Math.min(EVENED.most, (v - m) / (deviation + EVENED.flat)));
  });
  return { width, height, data: out };
}

interface Level {
  t: Template;
  scene: Plane;
  k: number;
}

/** The pose that agrees best; a plain shift unless another agrees clearly better. */
function bestPose(
  levels: readonly Level[],
  { near, far, turn, scale, mirror }: { near: Point; far: number; turn: number; scale: number; mirror: boolean },
): (Candidate & { plain: boolean }) | null {
  const coarse = levels.at(-1)!;
  const at: Point = [near[0] / coarse.k, near[1] / coarse.k];
  const found = (ways: Parameters<typeof everyPose>[3]) => refined(levels, everyPose(coarse, at, far / coarse.k, ways));
  const free = found({ turn, scale, mirror });
  const shift = found({ turn: 0, scale: 1, mirror: false });
  const plain = !free || (free.agreement < CERTAIN && shift !== null && shift.agreement > free.agreement - SIMPLER);
  const best = plain ? shift : free;
  return best && { ...best, plain };
}

/** The best of some candidates of the coarsest level, followed to the finest; null where there are none. */
function refined(levels: ReadonlyArray<{ t: Template; scene: Plane }>, candidates: Candidate[]): Candidate | null {
  let best = candidates;
  if (!best.length) return null;
  for (let n = levels.length - 1; n >= 0; n--) {
    const { t, scene: s } = levels[n];
    if (n < levels.length - 1) best = best.map((c) => ({ ...c, x: c.x * 2, y: c.y * 2 }));
    best = best.map((c) => refine(t, s, { ...c, agreement: correlate(t, s, c) }, n === 0 ? 12 : 6));
    best.sort((a, b) => b.agreement - a.agreement);
    best = distinct(best).slice(0, Math.max(1, KEPT >> (2 * (levels.length - 1 - n) + 1)));
  }
  return best[0];
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
