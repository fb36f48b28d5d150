// Plants defects that give a repair away, of known kind and place, for bench/check.ts and its test.
import { distanceTransform } from '../src/core/mask/distance.ts';
import { lumaPlane } from '../src/core/raster/luma.ts';
import { blur } from '../src/core/raster/planes.ts';
import type { Box, Raster } from '../src/core/raster/raster.ts';
import type { FindingKind } from '../src/core/check/finding.ts';
import { blob, coverOf } from './planted.ts';
import type { Shape } from '../src/core/mask/shapes.ts';

/** A defect as it was planted. */
export interface Defect {
  after: Raster;
  before: Raster;
  cover: Uint8Array;
  /** where it is seen */
  box: Box;
  /** whether it is plainly stronger than what its ground does by itself */
  clear: boolean;
}

/** A place on a photograph: its cover, distances to its border, and what its ground does around it. */
interface Spot {
  x: number;
  y: number;
  radius: number;
  cover: Uint8Array;
  /** px into the cover, and outside it */
  inside: Float32Array;
  outside: Float32Array;
  /** standard deviation of detail finer than 3 px, and of what is coarser than 6 px; levels */
  fine: number;
  coarse: number;
  /** median of fine detail: what most of it shows, whatever edges run through */
  grain: number;
}

const strand = (points: Array<[number, number]>, size: number): Shape[] => [
  { op: 'add', kind: 'strand', points, size },
];

const planes = new WeakMap<Raster, { luma: Float32Array; soft: Float32Array; coarse: Float32Array }>();
function planesOf(picture: Raster) {
  const known = planes.get(picture);
  if (known) return known;
  const luma = lumaPlane(picture);
  const { width, height } = picture;
  const made = { luma, soft: blur(luma, width, height, 2), coarse: blur(luma, width, height, 6) };
  planes.set(picture, made);
  return made;
}

const deviation = (list: number[]) => {
  const mean = list.reduce((a, b) => a + b, 0) / list.length;
  return Math.sqrt(list.reduce((s, v) => s + (v - mean) ** 2, 0) / list.length);
};

/** What the ground does in a ring around a place. */
function groundAt(picture: Raster, x: number, y: number, radius: number): Pick<Spot, 'fine' | 'coarse' | 'grain'> {
  const { luma, soft, coarse } = planesOf(picture);
  const fineList: number[] = [];
  const coarseList: number[] = [];
  for (let r = 0.8 * radius; r < 1.1 * radius + 24; r += 3)
    for (let a = 0; a < 6.28; a += 4 / r) {
      const [u, v] = [Math.round(x + r * Math.cos(a)), Math.round(y + r * Math.sin(a))];
      if (u < 0 || v < 0 || u >= picture.width || v >= picture.height) continue;
      const i = v * picture.width + u;
      fineList.push(luma[i] - soft[i]);
      coarseList.push(coarse[i]);
    }
  const sizes = fineList.map(Math.abs).sort((a, b) => a - b);
  return { fine: deviation(fineList), coarse: deviation(coarseList), grain: sizes[sizes.length >> 1] };
}

function spotAt(picture: Raster, x: number, y: number, radius: number): Spot {
  const { width, height } = picture;
  const cover = coverOf(blob(x, y, radius), width, height);
  const inside = distanceTransform(cover, width, height, 'outside');
  const outside = distanceTransform(cover, width, height, 'inside');
  return { x, y, radius, cover, inside, outside, ...groundAt(picture, x, y, radius) };
}

/** A random place; of several the one that is best for something. */
type Ground = Pick<Spot, 'x' | 'y' | 'radius' | 'fine' | 'coarse' | 'grain'>;
function spotFor(picture: Raster, random: () => number, good: (s: Ground) => number, tries = 12): Spot {
  let best: Ground | null = null;
  for (let n = 0; n < tries; n++) {
    const radius = 26 + 34 * random();
    const x = radius * 2 + random() * (picture.width - 4 * radius);
    const y = radius * 2 + random() * (picture.height - 4 * radius);
    const spot = { x, y, radius, ...groundAt(picture, x, y, radius) };
    if (!best || good(spot) > good(best)) best = spot;
  }
  return spotAt(picture, best!.x, best!.y, best!.radius);
}

const boxOf = ({ x, y, radius }: Spot, grown = 4): Box => ({
  x: Math.round(x - 1.25 * radius - grown),
  y: Math.round(y - 1.25 * radius - grown),
  width: Math.round(2.5 * radius + 2 * grown),
  height: Math.round(2.5 * radius + 2 * grown),
});
const copyOf = (picture: Raster): Raster => ({ ...picture, data: picture.data.slice() });
/** Changes pixels for which a function gives something. */
function change(
  picture: Raster,
  box: Box,
  of: (i: number, x: number, y: number, c: number, v: number) => number | null,
): void {
  const { width, height, data } = picture;
  for (let y = Math.max(0, box.y); y < Math.min(height, box.y + box.height); y++)
    for (let x = Math.max(0, box.x); x < Math.min(width, box.x + box.width); x++)
      for (let c = 0; c < 3; c++) {
        const at = 3 * (y * width + x) + c;
        const v = of(y * width + x, x, y, c, data[at]);
        if (v !== null) data[at] = Math.max(0, Math.min(255, Math.round(v)));
      }
}
const smoothstep = (t: number) => {
  const s = Math.min(1, Math.max(0, t));
  return s * s * (3 - 2 * s);
};
/** The photograph with a garish thing where the cover is. */
function thing(truth: Raster, spot: Spot, beyond = 0): Raster {
  const before = copyOf(truth);
  const tone =
    planesOf(truth).coarse[Math.round(spot.y) * truth.width + Math.round(spot.x)] > 128
      ? [30, 34, 44]
      : [226, 214, 190];
  change(before, boxOf(spot, 60), (i, _x, _y, c) =>
    spot.inside[i] > 2 || (spot.outside[i] > 0 && spot.outside[i] <= beyond) ? tone[c] : null,
  );
  return before;
}

type Planter = (truth: Raster, strength: 1 | 2 | 3, random: () => number) => Defect | null;

/** Offset by which another tone is planted. */
const castOf = (random: () => number): number[] => {
  const sign = random() < 0.5 ? -1 : 1;
  return [1, 1, 1].map((v) => sign * (v + 0.3 * (random() - 0.5)));
};

const PLANTERS: Record<FindingKind, Planter> = {
  'tone-step': (truth, strength, random) => {
    const spot = spotFor(truth, random, (s) => -s.coarse);
    const size = [5, 12, 24][strength - 1];
    const cast = castOf(random);
    const after = copyOf(truth);
    change(after, boxOf(spot), (i, _x, _y, c, v) =>
      spot.inside[i] > 0 ? v + size * cast[c] * smoothstep(spot.inside[i] / 4) : null,
    );
    return {
      after,
      before: thing(truth, spot),
      cover: spot.cover,
      box: boxOf(spot),
      clear: size > 1.5 * spot.coarse + 4,
    };
  },
  seam: (truth, strength, random) => {
    const spot = spotFor(truth, random, (s) => -s.fine);
    const size = [6, 14, 28][strength - 1];
    const sign = random() < 0.5 ? -1 : 1;
    const from = 6.28 * random();
    const after = copyOf(truth);
    change(after, boxOf(spot), (i, x, y, _c, v) => {
      if (!(spot.inside[i] > 0 && spot.inside[i] <= 1.5)) return null;
      const angle = (Math.atan2(y - spot.y, x - spot.x) - from + 12.6) % 6.283;
      return angle < 4 ? v + sign * size : null;
    });
    return {
      after,
      before: thing(truth, spot),
      cover: spot.cover,
      box: boxOf(spot),
      clear: size > 2.5 * spot.fine + 5,
    };
  },
  'lost-grain': (truth, strength, random) => {
    const spot = spotFor(truth, random, (s) => s.grain - s.coarse / 20);
    const share = [0.45, 0.8, 1][strength - 1];
    const { width, height } = truth;
    const soft = [0, 1, 2].map((c) =>
      blur(
        Float32Array.from({ length: width * height }, (_, i) => truth.data[3 * i + c]),
        width,
        height,
        3,
      ),
    );
    const after = copyOf(truth);
    change(after, boxOf(spot), (i, _x, _y, c, v) => (spot.inside[i] > 0 ? v + share * (soft[c][i] - v) : null));
    return {
      after,
      before: thing(truth, spot),
      cover: spot.cover,
      box: boxOf(spot),
      clear: strength > 1 && spot.grain > 1.5,
    };
  },
  'false-grain': (truth, strength, random) => {
    const spot = spotFor(truth, random, (s) => -s.fine);
    const size = [1.2, 2.5, 5][strength - 1] * (spot.fine + 1);
    const after = copyOf(truth);
    const grain = new Map<number, number>();
    change(after, boxOf(spot), (i, _x, _y, _c, v) => {
      if (!(spot.inside[i] > 0)) return null;
      if (!grain.has(i)) grain.set(i, random() + random() + random() + random() - 2);
      return v + 1.7 * size * grain.get(i)!;
    });
    return {
      after,
      before: thing(truth, spot),
      cover: spot.cover,
      box: boxOf(spot),
      clear: strength > 1 && size > 2.2 * spot.fine + 3,
    };
  },
  smear: (truth, strength, random) => {
    // Two grounds: a ground of another colour comes up to the cover, and runs over along its border.
    const spot = spotFor(truth, random, (s) => -s.coarse);
    const side = 6.28 * random();
    const [dx, dy] = [Math.cos(side), Math.sin(side)];
    const base = copyOf(truth);
    const other = [
      [70, 40, 20],
      [-60, -20, 30],
      [40, 70, -20],
    ][Math.floor(3 * random())];
    const part = (x: number, y: number) => (x - spot.x) * dx + (y - spot.y) * dy;
    const sign = planesOf(truth).coarse[Math.round(spot.y) * truth.width + Math.round(spot.x)] > 120 ? -1 : 1;
    change(base, boxOf(spot, 90), (_i, x, y, c, v) => v + sign * Math.abs(other[c]) * smoothstep((part(x, y) + 2) / 4));
    const after = copyOf(base);
    const deep = [5, 9, 14][strength - 1];
    const length = [0.5, 0.8, 1.1][strength - 1];
    const turn = random() < 0.5 ? 1 : -1;
    change(after, boxOf(spot), (i, x, y, c, v) => {
      if (!(spot.inside[i] > 0 && spot.inside[i] <= deep) || part(x, y) > 0) return null;
      const angle = turn * (Math.atan2(y - spot.y, x - spot.x) - side);
      const off = (angle - 1.57 + 12.57) % 6.283;
      return off < length ? v + sign * Math.abs(other[c]) * smoothstep((deep - spot.inside[i]) / 3) : null;
    });
    return {
      after,
      before: thing(base, spot),
      cover: spot.cover,
      box: boxOf(spot),
      clear: strength > 1 && spot.coarse < 16,
    };
  },
  'broken-line': (truth, strength, random) => {
    const lined = withLine(truth, random, [16, 34, 64][strength - 1]);
    const after = copyOf(lined.base);
    change(after, boxOf(lined.spot), (i, _x, _y, c) => (lined.spot.inside[i] > 0 ? truth.data[3 * i + c] : null));
    return {
      after,
      before: thing(lined.base, lined.spot),
      cover: lined.spot.cover,
      box: lined.box,
      clear: lined.clear,
    };
  },
  'bent-line': (truth, strength, random) => {
    const lined = withLine(truth, random, 60);
    const by = [2, 5, 9][strength - 1] * (random() < 0.5 ? -1 : 1);
    const after = copyOf(lined.base);
    change(after, boxOf(lined.spot), (i, x, y, c) =>
      lined.spot.inside[i] > 0 ? lined.tone(truth.data[3 * i + c], x + 0.5, y + 0.5, by) : null,
    );
    return {
      after,
      before: thing(lined.base, lined.spot),
      cover: lined.spot.cover,
      box: lined.box,
      clear: lined.clear && strength > 1,
    };
  },
  leftover: (truth, strength, random) => {
    const spot = spotFor(truth, random, (s) => -s.coarse);
    const wide = [2, 4, 8][strength - 1];
    const before = thing(truth, spot, wide);
    const after = copyOf(before);
    const side = 6.28 * random();
    const share = [0.5, 0.8, 1][strength - 1];
    change(after, boxOf(spot, 60), (i, x, y, c, v) => {
      const t = truth.data[3 * i + c];
      if (spot.inside[i] > 0) return t;
      const angle = (Math.atan2(y - spot.y, x - spot.x) - side + 12.57) % 6.283;
      return angle < 2 ? t + share * (v - t) : t;
    });
    return { after, before, cover: spot.cover, box: boxOf(spot, 12), clear: strength > 1 && spot.coarse < 22 };
  },
  shadow: (truth, strength, random) => {
    const spot = spotFor(
      truth,
      random,
      (s) => -s.coarse + (planesOf(truth).coarse[Math.round(s.y) * truth.width + Math.round(s.x)] > 70 ? 0 : -100),
    );
    const after = copyOf(truth);
    const depth = [0.12, 0.28, 0.45][strength - 1];
    const reach = 0.55 * spot.radius;
    const shade = (x: number, y: number) => {
      const d = Math.hypot((x - spot.x) / (1.15 * spot.radius), (y - spot.y - 1.05 * spot.radius) / (0.6 * reach));
      return 1 - depth * smoothstep((1.35 - d) / 0.7);
    };
    const before = thing(truth, spot);
    for (const picture of [after, before])
      change(picture, boxOf(spot, 70), (i, x, y, _c, v) => (spot.inside[i] > 0 ? null : v * shade(x, y)));
    const tone = planesOf(truth).coarse[Math.round(spot.y) * truth.width + Math.round(spot.x)];
    return {
      after,
      before,
      cover: spot.cover,
      box: boxOf(spot, 40),
      clear: strength > 1 && depth * tone > 1.5 * spot.coarse + 12,
    };
  },
  repeat: (truth, strength, random) => {
    // A distinct piece from beside it, laid in twice.
    const spot = spotFor(truth, random, (s) => s.fine + s.coarse / 2);
    const { coarse, luma } = planesOf(truth);
    const half = Math.round([0.3, 0.4, 0.5][strength - 1] * spot.radius);
    const after = copyOf(truth);
    const far = Math.round(1.5 * spot.radius + half + 4);
    const pieceAt = (angle: number): { at: [number, number]; varies: number } => {
      const at: [number, number] = [
        Math.round(spot.x + far * Math.cos(angle)),
        Math.round(spot.y + far * Math.sin(angle)),
      ];
      const list: number[] = [];
      for (let v = -half; v <= half; v++)
        for (let u = -half; u <= half; u++) {
          const i = (at[1] + v) * truth.width + at[0] + u;
          list.push((luma[i] ?? 0) - (coarse[i] ?? 0));
        }
      return { at, varies: deviation(list) };
    };
    const pieces = Array.from({ length: 10 }, (_, k) => pieceAt(k * 0.628 + random()));
    pieces.sort((a, b) => b.varies - a.varies);
    const [
      {
        at: [fx, fy],
        varies,
      },
    ] = pieces;
    /** what else there is around varies as much as this */
    const usual = pieces[5].varies;
    if (fx - half < 2 || fy - half < 2 || fx + half > truth.width - 2 || fy + half > truth.height - 2) return null;
    const mirror = random() < 0.3 ? -1 : 1;
    const tone = 6 * (random() - 0.5);
    const places = [
      [spot.x - 0.45 * spot.radius, spot.y],
      [spot.x + 0.45 * spot.radius, spot.y],
    ].map((q) => q.map(Math.round));
    for (const [px, py] of places)
      for (let v = -half; v <= half; v++)
        for (let u = -half; u <= half; u++) {
          const d = Math.hypot(u, v) / half;
          const to = (py + v) * truth.width + px + u;
          if (d > 1 || !(spot.inside[to] > 0)) continue;
          const from = (fy + v) * truth.width + fx + mirror * u;
          const share = smoothstep((1 - d) / 0.25);
          for (let c = 0; c < 3; c++)
            after.data[3 * to + c] = Math.max(
              0,
              Math.min(
                255,
                Math.round(after.data[3 * to + c] * (1 - share) + share * (truth.data[3 * from + c] + tone)),
              ),
            );
        }
    return {
      after,
      before: thing(truth, spot),
      cover: spot.cover,
      box: boxOf(spot),
      clear: varies > 9 && varies > 1.3 * usual && half >= 13,
    };
  },
  unfinished: (truth, strength, random) => {
    const spot = spotFor(truth, random, (s) => -s.coarse);
    const before = thing(truth, spot);
    const after = copyOf(before);
    // The more of it was done, the less is left.
    const done = [0.7, 0.4, 0][strength - 1];
    change(after, boxOf(spot), (i, _x, y, c) =>
      spot.inside[i] > 0 && y < spot.y - spot.radius + 2 * spot.radius * done ? truth.data[3 * i + c] : null,
    );
    return { after, before, cover: spot.cover, box: boxOf(spot), clear: strength > 1 };
  },
};

/** A photograph with a straight line drawn across a place. */
function withLine(truth: Raster, random: () => number, contrast: number) {
  const spot = spotFor(truth, random, (s) => -s.fine - s.coarse);
  const angle = 3.14 * random();
  const [nx, ny] = [-Math.sin(angle), Math.cos(angle)];
  const off = (random() - 0.5) * 0.8 * spot.radius;
  const half = 1 + 2 * random();
  const edge = random() < 0.4;
  const tone0 = planesOf(truth).coarse[Math.round(spot.y) * truth.width + Math.round(spot.x)];
  const sign = tone0 > 128 ? -1 : 1;
  const tone = (v: number, x: number, y: number, by: number) => {
    const d = (x - spot.x) * nx + (y - spot.y) * ny - off - by;
    const share = edge ? smoothstep(0.5 + d / 3) : smoothstep(half + 0.7 - Math.abs(d));
    return v + sign * contrast * share;
  };
  const base = copyOf(truth);
  change(base, boxOf(spot, 80), (_i, x, y, _c, v) => tone(v, x + 0.5, y + 0.5, 0));
  return { base, spot, tone, box: boxOf(spot, 6), clear: contrast > 2.5 * spot.fine + spot.coarse + 8 };
}

/** Plants one defect; null where a place for it was not found. */
export const plant = (kind: FindingKind, truth: Raster, strength: 1 | 2 | 3, random: () => number): Defect | null =>
  faintest(PLANTERS[kind](truth, strength, random), strength);
/** The faintest of three is never clearly visible. */
function faintest(defect: Defect | null, strength: 1 | 2 | 3): Defect | null {
  return defect && { ...defect, clear: defect.clear && strength > 1 };
}

/** A cover on an untouched photograph: a blob of 20 to 110 px across, or a strand. */
export function controlCover(truth: Raster, n: number, random: () => number): Uint8Array {
  const { width, height } = truth;
  if (n % 4 === 3) {
    const [x, y] = [width * (0.1 + 0.5 * random()), height * (0.1 + 0.8 * random())];
    const angle = random() - 0.5;
    const points = Array.from({ length: 13 }, (_, k): [number, number] => [
      x + k * 25 * Math.cos(angle),
      y + k * 25 * Math.sin(angle),
    ]);
    return coverOf(strand(points, 4 + 8 * random()), width, height);
  }
  const radius = 12 + 45 * random();
  return coverOf(
    blob(radius * 2 + random() * (width - 4 * radius), radius * 2 + random() * (height - 4 * radius), radius),
    width,
    height,
  );
}
