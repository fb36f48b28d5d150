import { outlineOf, simplified } from '../../mask/outline.ts';
import type { Shape } from '../../mask/shapes.ts';
import { quantile } from '../../raster/luma.ts';
import { colourChannels, crop, fullScale, growWithin, type Box, type Raster } from '../../raster/raster.ts';
import { labOf, type Lab } from '../../tone/lab.ts';

/** px around a rough place in which the tear's own edge lies. */
const AROUND = 56;
/** How far a pixel may lie from the colour of what is behind the print, CIELAB. */
const BEHIND = 12;
/** How bare paper differs from the face of the print: hardly darker than its margin, and of another tint by so much. */
const DARKER = 4;
const BARE = 7;
/** px that a rim of bare paper is wide at most. */
const RIM = 40;

/** Lab of every pixel. */
function labsOf({ width, height, channels, depth, data }: Raster): Lab[] {
  const unit = 255 / fullScale(depth);
  const [g, b] = colourChannels(channels) === 3 ? [1, 2] : [0, 0];
  return Array.from({ length: width * height }, (_, i) =>
    labOf(data[i * channels] * unit, data[i * channels + g] * unit, data[i * channels + b] * unit),
  );
}

const apart = (p: Lab, q: Lab) => Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);

/** Pixels that can be reached from some through others that count, at most so many steps away. */
function flood(from: Uint8Array, counts: (i: number) => boolean, width: number, most = Infinity): Uint8Array {
  const out = from.slice();
  let front = Array.from(from.keys()).filter((i) => from[i]);
  for (let step = 0; front.length && step < most; step++) {
    const next: number[] = [];
    for (const i of front) {
      const x = i % width;
      for (const j of [x > 0 ? i - 1 : -1, x + 1 < width ? i + 1 : -1, i - width, i + width]) {
        if (j < 0 || j >= out.length || out[j] || !counts(j)) continue;
        out[j] = 1;
        next.push(j);
      }
    }
    front = next;
  }
  return out;
}

/**
 * The outline of a tear to the pixel, with the white rim at which the paper was torn open: it belongs to the tear.
 * @param rough what was found of it at a small size: 1 where torn, over `place`
 * @param paper lightness of the print's margin, L of CIELAB
 * Source: own.
 */
export function tornOutline(
  picture: Raster,
  place: Box,
  rough: (x: number, y: number) => boolean,
  paper: number,
): Shape {
  const box = growWithin(place, AROUND, picture.width, picture.height);
  const { width, height } = box;
  const labs = labsOf(crop(picture, box));
  const seeds = new Uint8Array(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) seeds[i] = rough(box.x + x + 0.5, box.y + y + 0.5) ? 1 : 0;
  const middle = (list: Lab[]) =>
    [0, 1, 2].map((c) =>
      quantile(
        list.map((v) => v[c]),
        0.5,
      ),
    ) as unknown as Lab;
  const behind = middle(labs.filter((_, i) => seeds[i]));
  const face = labs.filter((v, i) => !seeds[i] && Math.abs(v[0] - paper) < 2 * DARKER);
  const margin = middle(face.length ? face : labs);
  const torn = flood(
    seeds.map((v, i) => (v && apart(labs[i], behind) < BEHIND ? 1 : 0)),
    (i) => apart(labs[i], behind) < BEHIND,
    width,
  );
  const bare = (i: number) => labs[i][0] > paper - DARKER && apart(labs[i], margin) > BARE;
  // Between what is behind and the rim lies a px of both.
  const edge = flood(torn, () => true, width, 2);
  const whole = flood(edge, (i) => bare(i), width, RIM);
  const points = simplified(outlineOf(whole, width, height, box.x, box.y), 0.7);
  return { op: 'add', kind: 'outline', points };
}
