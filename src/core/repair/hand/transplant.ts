import { boundsOfShapes, rasterise, shiftShapes, type Point, type Shape } from '../../mask/shapes.ts';
import { applyAffine, sourceBox, type Affine } from '../../raster/affine.ts';
import { growWithin, isEmpty, union, type Box } from '../../raster/raster.ts';
import type { RepairMethod } from '../method.ts';
import type { TransplantSpec } from '../spec.ts';
import { donorWords } from './copy.ts';
import { inverse, mapOf, shiftDonor } from './donor.ts';
import { rimWords } from './membrane.ts';
import { putDown } from './patch.ts';
import { sampleBeneath, sampleBent } from './sample.ts';

/** Weights of the three handles along one side at 0…1 (quadratic, so that the piece passes through its handles). */
const weights = (t: number): [number, number, number] => [(2 * t - 1) * (t - 1), 4 * t * (1 - t), t * (2 * t - 1)];

/** How far a place of the piece is moved by its handles; outside the piece as at its edge. */
export function bendAt(bend: readonly Point[], box: Box, x: number, y: number): Point {
  const u = weights(Math.min(1, Math.max(0, (x - box.x) / Math.max(1, box.width))));
  const v = weights(Math.min(1, Math.max(0, (y - box.y) / Math.max(1, box.height))));
  let [dx, dy] = [0, 0];
  for (let j = 0; j < 3; j++) {
    for (let i = 0; i < 3; i++) {
      const w = u[i] * v[j];
      dx += w * bend[j * 3 + i][0];
      dy += w * bend[j * 3 + i][1];
    }
  }
  return [dx, dy];
}

/** Where the content that a bend brings to a place comes from (fixed-point iteration of q = p − bend(q)). */
function unbent(bend: readonly Point[], box: Box, x: number, y: number): Point {
  let [qx, qy] = [x, y];
  for (let n = 0; n < 12; n++) {
    const [dx, dy] = bendAt(bend, box, qx, qy);
    const [nx, ny] = [x - dx, y - dy];
    const moved = Math.abs(nx - qx) + Math.abs(ny - qy);
    [qx, qy] = [nx, ny];
    if (moved < 1e-3) break;
  }
  return [qx, qy];
}

const isBent = (bend: readonly Point[]) => bend.some(([x, y]) => x !== 0 || y !== 0);

interface Placed {
  map: Affine;
  /** the piece where it was lifted */
  piece: Box;
  /** where it is put down, with a rim */
  frame: Box;
}

function placed(spec: TransplantSpec, width: number, height: number): Placed | null {
  const piece = boundsOfShapes(spec.piece, width, height);
  if (isEmpty(piece)) return null;
  const map = mapOf(spec.donor.from, spec.donor.at, spec.donor, false);
  const back = inverse(map);
  const by = Math.max(0, ...spec.bend.flatMap(([x, y]) => [Math.abs(x), Math.abs(y)])) * 1.5;
  const corners = [
    [piece.x - by, piece.y - by],
    [piece.x + piece.width + by, piece.y - by],
    [piece.x - by, piece.y + piece.height + by],
    [piece.x + piece.width + by, piece.y + piece.height + by],
  ].map(([x, y]) => applyAffine(back, x, y));
  const x = Math.floor(Math.min(...corners.map((c) => c[0]))) - 4;
  const y = Math.floor(Math.min(...corners.map((c) => c[1]))) - 4;
  const frame = growWithin(
    {
      x,
      y,
      width: Math.ceil(Math.max(...corners.map((c) => c[0]))) + 4 - x,
      height: Math.ceil(Math.max(...corners.map((c) => c[1]))) + 4 - y,
    },
    0,
    width,
    height,
  );
  return { map, piece, frame };
}

/** The cover of a transplant: its piece where it is put down. */
export function placedCover(
  piece: readonly Shape[],
  pieceBox: Box,
  frame: Box,
  place: (x: number, y: number) => Point,
): Uint8Array {
  const mask = rasterise(piece, pieceBox);
  const cover = new Uint8Array(frame.width * frame.height);
  for (let y = 0, i = 0; y < frame.height; y++) {
    for (let x = 0; x < frame.width; x++, i++) {
      const [px, py] = place(frame.x + x + 0.5, frame.y + y + 0.5);
      const u = Math.floor(px) - pieceBox.x;
      const v = Math.floor(py) - pieceBox.y;
      if (u >= 0 && v >= 0 && u < pieceBox.width && v < pieceBox.height) cover[i] = mask.data[v * pieceBox.width + u];
    }
  }
  return cover;
}

/** Transplant: a lifted piece, put down moved, turned, sized, mirrored and bent. */
export const transplant: RepairMethod<TransplantSpec> = {
  method: 'transplant',
  version: 2,
  shift: (spec, dx, dy) => ({
    ...spec,
    piece: shiftShapes(spec.piece, dx, dy),
    donor: shiftDonor(spec.donor, dx, dy),
  }),
  readBox(spec, width, height) {
    const p = placed(spec, width, height);
    if (!p || isEmpty(p.frame)) return { x: 0, y: 0, width: 0, height: 0 };
    return union(union(p.frame, growWithin(p.piece, 12, width, height)), sourceBox(p.map, p.frame, width, height));
  },
  render(beneath, spec) {
    const p = placed(spec, beneath.width, beneath.height);
    if (!p) throw new Error('The piece lies outside the picture. Outline it on the picture.');
    if (isEmpty(p.frame)) throw new Error('The piece is put down outside the picture. Move it onto the picture.');
    const { map, piece, frame } = p;
    const bent = isBent(spec.bend);
    const place = (x: number, y: number): Point => {
      const [px, py] = applyAffine(map, x, y);
      return bent ? unbent(spec.bend, piece, px, py) : [px, py];
    };
    let sampled;
    if (!bent) sampled = sampleBeneath(beneath, map, frame);
    else {
      const box = union(
        sourceBox(map, frame, beneath.width, beneath.height),
        growWithin(piece, 12, beneath.width, beneath.height),
      );
      const stretch = Math.max(1, 1 / spec.donor.scale);
      sampled = sampleBent(beneath, box, frame, place, stretch);
    }
    const cover = placedCover(spec.piece, piece, frame, place);
    const gaps = beneath.gap?.(frame);
    const done = putDown(beneath.read(frame), frame, sampled, cover, spec.feather, spec.blended, gaps);
    const how = spec.blended ? 'with the tone of its new place' : 'with its own tone';
    return {
      patch: done.patch,
      reason: [`A lifted piece ${how}${donorWords(spec.donor)}${bent ? ', bent' : ''}.`, done.rim && rimWords(done.rim)]
        .filter(Boolean)
        .join(' '),
    };
  },
};
