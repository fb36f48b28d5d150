import type { Box } from '../raster/raster.ts';
import { rayOf, seenAt, type Camera, type Turn, type Vector } from './camera.ts';

export type ProjectionKind = 'flat' | 'cylinder';

/** How directions are laid onto a canvas. */
export interface Projection {
  kind: ProjectionKind;
  /** px of the canvas a radian in its middle */
  focal: number;
  /** directions of the world as the canvas has them: forward is its middle */
  turn: Turn;
}

/** Degrees to a side from which on a flat canvas draws out too much. */
const FLAT = 38;
/** Degrees beyond which nothing can be laid flat. */
const FLATTEST = 75;
const DEGREES = 180 / Math.PI;

/** Where on the canvas a direction lies; false where it has no place. */
export function laidAt({ kind, focal, turn }: Projection, [X, Y, Z]: Vector, out: number[]): boolean {
  const x = turn[0] * X + turn[1] * Y + turn[2] * Z;
  const y = turn[3] * X + turn[4] * Y + turn[5] * Z;
  const z = turn[6] * X + turn[7] * Y + turn[8] * Z;
  if (kind === 'flat') {
    if (z <= Math.cos(FLATTEST / DEGREES) * Math.hypot(x, y, z)) return false;
    out[0] = (focal * x) / z;
    out[1] = (focal * y) / z;
    return true;
  }
  const flat = Math.hypot(x, z);
  if (flat <= 1e-9) return false;
  out[0] = focal * Math.atan2(x, z);
  out[1] = (focal * y) / flat;
  return true;
}

/** The direction of the world at a place of the canvas. */
export function directionAt({ kind, focal, turn }: Projection, x: number, y: number): [number, number, number] {
  const angle = x / focal;
  const [p, q, r] = kind === 'flat' ? [x, y, focal] : [Math.sin(angle), y / focal, Math.cos(angle)];
  return [
    turn[0] * p + turn[3] * q + turn[6] * r,
    turn[1] * p + turn[4] * q + turn[7] * r,
    turn[2] * p + turn[5] * q + turn[8] * r,
  ];
}

const cross = (a: Vector, b: Vector): [number, number, number] => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (v: Vector): [number, number, number] => {
  const length = Math.hypot(...v);
  return [v[0] / length, v[1] / length, v[2] / length];
};

/** Turns the world so that all frames together look forward, and are level on average. */
function evenTurn(cameras: readonly Camera[]): number[] {
  const sum = (row: number) =>
    [0, 1, 2].map((c) => cameras.reduce((s, { turn }) => s + turn[3 * row + c], 0)) as [number, number, number];
  const forward = unit(sum(2));
  const down = unit(cross(forward, sum(0)));
  const right = cross(down, forward);
  return [...right, ...down, ...forward];
}

/** Places along a frame's border. */
function* borderOf({ width, height }: Camera): Generator<[number, number]> {
  for (let k = 0; k <= 64; k++) {
    const [x, y] = [(k / 64) * (width - 1), (k / 64) * (height - 1)];
    yield [x, 0];
    yield [x, height - 1];
    yield [0, y];
    yield [width - 1, y];
  }
}

/** px of the canvas that a frame takes. @throws RangeError where a part of it has no place */
export function boxOn(projection: Projection, camera: Camera): Box {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  const at = [0, 0];
  for (const [x, y] of borderOf(camera)) {
    if (!laidAt(projection, rayOf(camera, x, y), at)) throw new RangeError('It looks too far to a side.');
    left = Math.min(left, at[0]);
    right = Math.max(right, at[0]);
    top = Math.min(top, at[1]);
    bottom = Math.max(bottom, at[1]);
  }
  const [x, y] = [Math.floor(left), Math.floor(top)];
  return { x, y, width: Math.ceil(right) - x + 1, height: Math.ceil(bottom) - y + 1 };
}

/** Which projection suits, and how many degrees are seen to the side that is seen farther. Wide ones are laid on a cylinder. */
export function projectionFor(
  cameras: readonly Camera[],
  asked: ProjectionKind | 'auto',
): Projection & { degrees: number } {
  const turn = evenTurn(cameras);
  const focal = cameras.reduce((s, c) => s + c.focal, 0) / cameras.length;
  const around: Projection = { kind: 'cylinder', focal, turn };
  let most = 0;
  for (const camera of cameras) {
    const { x, width } = boxOn(around, camera);
    most = Math.max(most, Math.abs(x) / focal, Math.abs(x + width) / focal);
  }
  const degrees = most * DEGREES;
  const kind = asked === 'auto' ? (degrees > FLAT ? 'cylinder' : 'flat') : asked;
  return { kind, focal, turn, degrees };
}

/** px between places of the canvas that are worked out, the others lie evenly between. */
const STEP = 8;

/** Where a frame sees the px of a row of the canvas, px of the frame; NaN where it does not. */
export class Seeing {
  private readonly wide: number;
  private readonly rows = new Map<number, Float64Array>();

  constructor(
    private readonly projection: Projection,
    private readonly camera: Camera,
    private readonly box: Box,
  ) {
    this.wide = Math.ceil(box.width / STEP) + 2;
  }

  private knots(row: number): Float64Array {
    const known = this.rows.get(row);
    if (known) return known;
    const out = new Float64Array(2 * this.wide);
    const at = [0, 0];
    for (let k = 0; k < this.wide; k++) {
      const [x, y] = [this.box.x + k * STEP, this.box.y + row * STEP];
      const seen = seenAt(this.camera, directionAt(this.projection, x, y), at);
      out[2 * k] = seen ? at[0] : NaN;
      out[2 * k + 1] = seen ? at[1] : NaN;
    }
    this.rows.delete(row - 2);
    this.rows.set(row, out);
    return out;
  }

  /** Writes x and y of each px of a row of the box, counted from its top. */
  row(y: number, out: Float64Array): void {
    const at = Math.floor(y / STEP);
    const [upper, lower] = [this.knots(at), this.knots(at + 1)];
    const fy = y / STEP - at;
    for (let x = 0; x < this.box.width; x++) {
      const k = 2 * Math.floor(x / STEP);
      const fx = (x % STEP) / STEP;
      for (let c = 0; c < 2; c++) {
        const a = upper[k + c] + (upper[k + 2 + c] - upper[k + c]) * fx;
        const b = lower[k + c] + (lower[k + 2 + c] - lower[k + c]) * fx;
        out[2 * x + c] = a + (b - a) * fy;
      }
    }
  }
}
