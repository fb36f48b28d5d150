import { withKernels } from '../kernels/memory.ts';
import { rasterise, scaleShapes, type Shape } from '../mask/shapes.ts';
import type { Plane } from '../raster/luma.ts';
import { colourChannels, fullScale, intersect, type Box, type Raster } from '../raster/raster.ts';
import { roundedBox } from './blend.ts';
import { reachOf, type Camera } from './camera.ts';
import { fromLight, toLight } from './light.ts';
import { boxOn, Seeing, type Projection } from './projection.ts';

/** What is wished of a frame; px of the frame. */
export interface FrameMarks {
  /** it shows this, and no other does */
  keep: Shape[];
  /** another shows this, where one does */
  leave: Shape[];
}

/** Levels of a frame that is laid onto the canvas: fine enough for what is made lighter or darker. */
export const FINE = 65535;

/** By how many stops a frame is made lighter at so many half diagonals from its middle, squared. */
export type Stops = (square: number) => number;

/** A frame laid onto its part of the canvas. */
export interface Laid {
  box: Box;
  valid: Uint8Array;
  /** colours, 0 to {@link FINE} */
  data: Uint16Array;
}

/** Value of a frame made so many stops lighter, from and to 0…1. */
const lighter = (value: number, stops: number): number => Math.min(1, fromLight(toLight(value) * 2 ** stops));

/** Values, and steps a stop, for which it is worked out what they become; what lies between is evened. */
const VALUES = 1024;
const STEPS = 32;

/** Makes values lighter by tables, since it is done for every px. */
class Lighter {
  private readonly tables = new Map<number, Float32Array>();

  private table(step: number): Float32Array {
    let table = this.tables.get(step);
    if (!table) {
      table = Float32Array.from({ length: VALUES + 2 }, (_, k) => lighter(k / VALUES, step / STEPS));
      this.tables.set(step, table);
    }
    return table;
  }

  /** Makes values so many stops lighter, from and to 0…1. */
  by(stops: number): (value: number) => number {
    const step = Math.floor(stops * STEPS);
    const share = stops * STEPS - step;
    const [less, more] = [this.table(step), this.table(step + 1)];
    return (value) => {
      const k = Math.floor(value * VALUES);
      const part = value * VALUES - k;
      const a = less[k] + (less[k + 1] - less[k]) * part;
      return a + (more[k] + (more[k + 1] - more[k]) * part - a) * share;
    };
  }
}

/** Lays a frame onto its part of the canvas: cubic, and as light as all are on average. */
export function layFrame(
  frame: Raster,
  camera: Camera,
  projection: Projection,
  stopsAt: Stops,
  onRow: () => void,
): Laid {
  const box = roundedBox(boxOn(projection, camera));
  const { width, height, channels, depth } = frame;
  const colours = colourChannels(channels);
  const valid = new Uint8Array(box.width * box.height);
  const data = new Uint16Array(box.width * box.height * colours);
  const seeing = new Seeing(projection, camera, box);
  const places = new Float64Array(2 * box.width);
  const wanted = new Uint8Array(box.width);
  const reach = reachOf(camera) ** 2;
  const [mx, my] = [width / 2 - 0.5, height / 2 - 0.5];
  const full = fullScale(depth);
  const tables = new Lighter();
  withKernels((kernels) => {
    const source = kernels.put(frame.data);
    const placesAt = kernels.reserve(16 * box.width);
    const wantedAt = kernels.reserve(box.width);
    const outAt = kernels.reserve(4 * colours * box.width);
    for (let y = 0; y < box.height; y++) {
      seeing.row(y, places);
      let any = false;
      for (let x = 0; x < box.width; x++) {
        const [u, v] = [places[2 * x], places[2 * x + 1]];
        const inside = u >= 0 && v >= 0 && u <= width - 1 && v <= height - 1;
        wanted[x] = inside ? 1 : 0;
        any ||= inside;
      }
      if (any) {
        kernels.f64(placesAt, places.length).set(places);
        kernels.u8(wantedAt, wanted.length).set(wanted);
        kernels.run.cubicAt(
          source,
          width,
          height,
          channels,
          depth === 16 ? 2 : 1,
          colours,
          placesAt,
          wantedAt,
          box.width,
          1,
          outAt,
        );
        const out = kernels.f32(outAt, colours * box.width);
        for (let x = 0; x < box.width; x++) {
          if (!wanted[x]) continue;
          const i = y * box.width + x;
          valid[i] = 1;
          const square = ((places[2 * x] - mx) ** 2 + (places[2 * x + 1] - my) ** 2) / reach;
          const made = tables.by(stopsAt(square));
          for (let c = 0; c < colours; c++)
            data[i * colours + c] = FINE * made(Math.min(full, Math.max(0, out[x * colours + c])) / full) + 0.5;
        }
      }
      onRow();
    }
  });
  return { box, valid, data };
}

/** Brightness of a frame on the reduced canvas, made as light as all are; NaN where it shows nothing. */
export function reducedOf(
  luma: Plane,
  by: number,
  camera: Camera,
  projection: Projection,
  canvas: Box,
  scale: number,
  stopsAt: Stops,
): Float32Array {
  const [w, h] = [Math.ceil(canvas.width / scale), Math.ceil(canvas.height / scale)];
  const out = new Float32Array(w * h).fill(NaN);
  // The canvas reduced is a canvas of a shorter focal length.
  const smaller: Projection = { ...projection, focal: projection.focal / scale };
  const seeing = new Seeing(smaller, camera, { x: canvas.x / scale, y: canvas.y / scale, width: w, height: h });
  const places = new Float64Array(2 * w);
  const reach = reachOf(camera) ** 2;
  for (let y = 0; y < h; y++) {
    seeing.row(y, places);
    for (let x = 0; x < w; x++) {
      const [u, v] = [places[2 * x], places[2 * x + 1]];
      if (!(u >= 0 && v >= 0 && u <= camera.width - 1 && v <= camera.height - 1)) continue;
      const [px, py] = [Math.floor((u + 0.5) / by), Math.floor((v + 0.5) / by)];
      const value = luma.data[Math.min(luma.height - 1, py) * luma.width + Math.min(luma.width - 1, px)] / 255;
      const square = ((u + 0.5 - camera.width / 2) ** 2 + (v + 0.5 - camera.height / 2) ** 2) / reach;
      out[y * w + x] = 255 * lighter(value, stopsAt(square));
    }
  }
  return out;
}

/** What is wished of a frame on the reduced canvas: 1 where it is to be taken, 2 where it is not. */
export function wishedOf(
  { keep, leave }: FrameMarks,
  camera: Camera,
  projection: Projection,
  canvas: Box,
  scale: number,
): Uint8Array {
  const [w, h] = [Math.ceil(canvas.width / scale), Math.ceil(canvas.height / scale)];
  const frame = { x: 0, y: 0, width: Math.ceil(camera.width / scale), height: Math.ceil(camera.height / scale) };
  const [kept, left] = [keep, leave].map((shapes) => rasterise(scaleShapes(shapes, 1 / scale), frame).data);
  const out = new Uint8Array(w * h);
  const smaller: Projection = { ...projection, focal: projection.focal / scale };
  const seeing = new Seeing(smaller, camera, { x: canvas.x / scale, y: canvas.y / scale, width: w, height: h });
  const places = new Float64Array(2 * w);
  for (let y = 0; y < h; y++) {
    seeing.row(y, places);
    for (let x = 0; x < w; x++) {
      const [u, v] = [Math.floor(places[2 * x] / scale), Math.floor(places[2 * x + 1] / scale)];
      if (!(u >= 0 && v >= 0 && u < frame.width && v < frame.height)) continue;
      const i = v * frame.width + u;
      out[y * w + x] = kept[i] ? 1 : left[i] ? 2 : 0;
    }
  }
  return out;
}

/** Where a frame shows a box of the canvas: the box around its corners, px of the frame; null where it does not show all of them. */
export function placeIn(camera: Camera, projection: Projection, box: Box): Box | null {
  const places = new Float64Array(2);
  const corners = [0, 1, 2, 3].map((k) => {
    const [x, y] = [box.x + (k & 1 ? box.width : 0), box.y + (k & 2 ? box.height : 0)];
    new Seeing(projection, camera, { x, y, width: 1, height: 1 }).row(0, places);
    return [places[0], places[1]];
  });
  if (corners.some(([x, y]) => !(x === x && y === y))) return null;
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  const [x, y] = [Math.floor(Math.max(0, Math.min(...xs))), Math.floor(Math.max(0, Math.min(...ys)))];
  const right = Math.min(camera.width, Math.ceil(Math.max(...xs)));
  const bottom = Math.min(camera.height, Math.ceil(Math.max(...ys)));
  return right > x && bottom > y ? { x, y, width: right - x, height: bottom - y } : null;
}

/** One channel of each frame. */
export function* planesOf(layers: readonly Laid[], c: number, colours: number): Generator<Float32Array> {
  for (const { data } of layers) {
    const plane = new Float32Array(data.length / colours);
    for (let i = 0; i < plane.length; i++) plane[i] = data[i * colours + c];
    yield plane;
  }
}

/**
 * Has each frame show what the joined picture shows where it has something else, that moved: laid over into each other over several
 * scales, it would leave a glow or a shade beside the join.
 * @param moved for each frame 1 where it has something else, on the reduced canvas
 */
export function takeOver(
  layers: readonly Laid[],
  owners: readonly Uint8Array[],
  moved: readonly Uint8Array[],
  { w, canvas, scale, colours }: { w: number; canvas: Box; scale: number; colours: number },
): void {
  layers.forEach(({ box, valid, data }, k) => {
    const within = intersect(box, canvas);
    for (let y = within.y; y < within.y + within.height; y++)
      for (let x = within.x; x < within.x + within.width; x++) {
        const i = (y - box.y) * box.width + x - box.x;
        if (owners[k][i] || !valid[i]) continue;
        if (!moved[k][Math.floor((y - canvas.y) / scale) * w + Math.floor((x - canvas.x) / scale)]) continue;
        layers.forEach((other, n) => {
          const [u, v] = [x - other.box.x, y - other.box.y];
          if (u < 0 || v < 0 || u >= other.box.width || v >= other.box.height) return;
          const j = v * other.box.width + u;
          if (owners[n][j]) for (let c = 0; c < colours; c++) data[i * colours + c] = other.data[j * colours + c];
        });
      }
  });
}

/** Which px of the canvas are taken from which frame: as decided on the reduced one, as far as the frame shows them. */
export function ownersOf(
  layers: readonly Laid[],
  labels: Uint8Array,
  w: number,
  h: number,
  canvas: Box,
  scale: number,
): Uint8Array[] {
  const own = layers.map(({ box }) => new Uint8Array(box.width * box.height));
  for (let y = 0; y < canvas.height; y++)
    for (let x = 0; x < canvas.width; x++) {
      const wanted = labels[Math.min(h - 1, Math.floor(y / scale)) * w + Math.min(w - 1, Math.floor(x / scale))] - 1;
      // Where the reduced canvas is coarser than a frame's end another shows it.
      for (let k = -1; k < layers.length; k++) {
        const n = k < 0 ? wanted : k;
        if (n < 0) continue;
        const { box, valid } = layers[n];
        const [u, v] = [x + canvas.x - box.x, y + canvas.y - box.y];
        if (u < 0 || v < 0 || u >= box.width || v >= box.height || !valid[v * box.width + u]) continue;
        own[n][v * box.width + u] = 1;
        break;
      }
    }
  return own;
}
