import { lumaPlane, type Plane } from '../raster/luma.ts';
import {
  allocateSamples,
  colourChannels,
  fullScale,
  grow,
  shiftBox,
  union,
  type Box,
  type Raster,
} from '../raster/raster.ts';
import { adjust, errorOf, firstOf, refined } from './adjust.ts';
import { Blend, roundedBox, type Layer } from './blend.ts';
import type { Camera } from './camera.ts';
import { pairsOf, type OpenCv } from './features.ts';
import { FINE, layFrame, ownersOf, placeIn, planesOf, reducedOf, takeOver, wishedOf, type FrameMarks } from './lay.ts';
import { lightOf, neededAt, type Light } from './light.ts';
import { boxOn, projectionFor, type Projection, type ProjectionKind } from './projection.ts';
import { largestFree, largestWorth } from './rectangle.ts';
import { movedOf, seamsOf } from './seams.ts';
import { halved, settledPairs } from './sharpen.ts';

/** px of a canvas at the most. */
const MOST_PX = 2.5e8;
/** px of the canvas on which it is decided where joins run. */
const DECIDED = 6e5;
/** px by which matches may be off in the end before they count by their size only. */
const ROBUST = 0.7;
/** px of that by which what moved is taken larger. */
const BESIDE = 2;
/** Degrees to a side up to which frames can be laid side by side: all around there is no left and right. */
const AROUND = 165;

/** Frames that have too little in common to be joined, in words. */
export class CannotJoin extends Error {}

export interface JoinOptions {
  projection?: ProjectionKind | 'auto';
  /** what is wished of frames, by their places */
  marks?: ReadonlyArray<FrameMarks | null>;
  /** share that is done, 0 to 1; throws to stop */
  onProgress?: (done: number) => void;
}

/** Frames joined. */
export interface Joined {
  picture: Raster;
  /** 1 where no frame shows anything */
  gaps: Uint8Array;
  /** which frame each px is taken from, by its place counted from 1; 0 in gaps */
  owners: Uint8Array;
  /** the largest part without gaps */
  whole: Box;
  /** in between of that and all: gaps only where they bring in much more */
  between: Box;
  projection: ProjectionKind;
  /** how the canvas is laid, and its first px there */
  laid: Projection & Pick<Box, 'x' | 'y'>;
  /** degrees to the side that is seen farther */
  degrees: number;
  cameras: Array<Camera | null>;
  light: Light;
  /** root mean square of what matches differ by, px */
  error: number;
  matches: number;
  /** frames that do not belong, by their places */
  left: number[];
  /** places where a join runs through what moved, px of the picture */
  cuts: Array<{
    x: number;
    y: number;
    length: number;
    frames: [number, number];
    /** all that moved there as either frame shows it, px of the frame; null where it does not show all of it */
    places: [Box | null, Box | null];
  }>;
}

/** Counts up when the same frames give other pixels; a picture that says none was joined before the first. */
export const JOIN_VERSION = 1;

/**
 * Joins frames that were taken from one place: finds what they have in common, how each was turned, the focal length, the bending, the
 * exposures and the fall-off of light of all; lays them onto a flat canvas or a cylinder, each as far as the way on which it differs
 * least from its neighbour, and lets them go over into each other over several scales.
 *
 * @param frames of as many colours each; in any order
 * @throws CannotJoin where they have too little in common
 * Source: Brown & Lowe, "Automatic Panoramic Image Stitching using Invariant Features", 2007, for the way as a whole.
 */
export function join(
  cv: OpenCv,
  frames: readonly Raster[],
  { projection = 'auto', marks = [], onProgress = () => undefined }: JoinOptions = {},
): Joined {
  const lumas = frames.map((frame): Plane => ({ width: frame.width, height: frame.height, data: lumaPlane(frame) }));
  const pairs = pairsOf(cv, lumas, (done) => onProgress(0.2 * done));
  const rough = adjust(frames, pairs);
  if (!rough)
    throw new CannotJoin('The frames show nothing of the same, or too little. Take frames that overlap by a third.');
  onProgress(0.25);
  const fine = settledPairs(lumas, rough.cameras, pairs);
  const cameras = refined(rough.cameras, fine, firstOf(rough.cameras), ROBUST);
  const error = errorOf(cameras, fine);
  onProgress(0.32);
  const used = cameras.flatMap((camera, n) => (camera ? [{ camera, n }] : []));
  const laid = projectionFor(
    used.map((u) => u.camera),
    projection,
  );
  if (laid.degrees > AROUND)
    throw new CannotJoin('The frames go all around. Leave some out, so that a part of the circle stays open.');
  let boxes: Box[];
  try {
    boxes = used.map(({ camera }) => boxOn(laid, camera));
  } catch {
    throw new CannotJoin('The frames reach too far to the sides to be laid flat. Join them on a cylinder.');
  }
  const canvas = boxes.reduce(union);
  if (canvas.width * canvas.height > MOST_PX)
    throw new CannotJoin(
      `Joined, the frames would have ${canvas.width} × ${canvas.height} px: too many. Make them smaller first.`,
    );
  const light = lightOf(lumas, cameras);
  const stops = used.map(
    ({ n }) =>
      (square: number) =>
        neededAt(light, n, square),
  );
  const scale = Math.max(1, 2 ** Math.round(Math.log2(Math.sqrt((canvas.width * canvas.height) / DECIDED))));
  const halvings = Math.log2(scale);
  const reduced = used.map(({ camera, n }, k) =>
    reducedOf(halved(lumas[n], halvings), scale, camera, laid, canvas, scale, stops[k]),
  );
  const [w, h] = [Math.ceil(canvas.width / scale), Math.ceil(canvas.height / scale)];
  const wishes = used.map(({ camera, n }) => (marks[n] ? wishedOf(marks[n], camera, laid, canvas, scale) : null));
  const seams = seamsOf(reduced, w, h, wishes);
  const { labels, cuts } = seams;
  const moved = movedOf(reduced, seams, w);
  onProgress(0.4);
  lumas.length = 0;

  const rows = used.reduce((s, { camera }) => s + roundedBox(boxOn(laid, camera)).height, 0);
  let row = 0;
  const layers = used.map(({ camera, n }, k) =>
    layFrame(frames[n], camera, laid, stops[k], () => {
      if (++row % 64 === 0) onProgress(0.4 + 0.3 * (row / rows));
    }),
  );
  const owners = ownersOf(layers, labels, w, h, canvas, scale);
  const { channels, depth } = frames[used[0].n];
  const colours = colourChannels(channels);
  takeOver(layers, owners, moved, { w, canvas, scale, colours });
  onProgress(0.75);
  const whole = layers.map((l) => l.box).reduce(union);
  const blend = new Blend(
    whole,
    layers.map((l, k): Layer => ({ box: l.box, valid: l.valid, own: owners[k] })),
  );
  const size = canvas.width * canvas.height;
  const picture: Raster = {
    width: canvas.width,
    height: canvas.height,
    channels: colours,
    depth,
    data: allocateSamples(size * colours, depth),
  };
  const gaps = new Uint8Array(size).fill(1);
  const takenFrom = new Uint8Array(size);
  layers.forEach(({ box, valid }, k) => {
    for (let y = Math.max(box.y, canvas.y); y < Math.min(box.y + box.height, canvas.y + canvas.height); y++)
      for (let x = Math.max(box.x, canvas.x); x < Math.min(box.x + box.width, canvas.x + canvas.width); x++) {
        const from = (y - box.y) * box.width + x - box.x;
        const to = (y - canvas.y) * canvas.width + x - canvas.x;
        if (valid[from]) gaps[to] = 0;
        if (owners[k][from]) takenFrom[to] = used[k].n + 1;
      }
  });
  const full = fullScale(depth);
  for (let c = 0; c < colours; c++) {
    const plane = blend.channel(planesOf(layers, c, colours));
    for (let y = 0, i = 0; y < canvas.height; y++)
      for (
        let x = 0, from = (y + canvas.y - whole.y) * whole.width + canvas.x - whole.x;
        x < canvas.width;
        x++, i++, from++
      )
        if (!gaps[i])
          picture.data[i * colours + c] = Math.round((full * Math.min(FINE, Math.max(0, plane[from]))) / FINE);
    onProgress(0.78 + (0.22 * (c + 1)) / colours);
  }
  return {
    picture,
    gaps,
    owners: takenFrom,
    whole: largestFree(gaps, canvas.width, canvas.height),
    between: largestWorth(gaps, canvas.width, canvas.height),
    projection: laid.kind,
    laid: { ...laid, x: canvas.x, y: canvas.y },
    degrees: laid.degrees,
    cameras,
    light,
    error,
    matches: fine.reduce((s, p) => s + p.matches.length, 0),
    left: cameras.flatMap((camera, n) => (camera ? [] : [n])),
    cuts: cuts.map(({ moved: around, shown, ...cut }) => ({
      ...cut,
      x: Math.round((cut.x + 0.5) * scale),
      y: Math.round((cut.y + 0.5) * scale),
      length: cut.length * scale,
      frames: [used[cut.frames[0]].n, used[cut.frames[1]].n],
      places: cut.frames.map((k, side) => {
        if (!shown[side]) return null;
        const { x, y, width, height } = grow(around, BESIDE);
        const box = { x: x * scale, y: y * scale, width: width * scale, height: height * scale };
        return placeIn(used[k].camera, laid, shiftBox(box, canvas.x, canvas.y));
      }) as [Box | null, Box | null],
    })),
  };
}
