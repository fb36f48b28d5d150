/** A turn as nine numbers, by rows: it takes directions of the world to those a camera sees. */
export type Turn = readonly number[];
export type Vector = readonly [number, number, number];

/** How a frame was taken. Lengths in px of the frame, places from its middle. */
export interface Camera {
  width: number;
  height: number;
  turn: Turn;
  /** focal length, px */
  focal: number;
  /** radial bending: what is seen at r half diagonals from the middle lies at r (1 + bend r²) in a picture without */
  bend: number;
}

export const NO_TURN: Turn = [1, 0, 0, 0, 1, 0, 0, 0, 1];

export function multiplied(a: Turn, b: Turn): number[] {
  const out = new Array<number>(9);
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++) out[3 * r + c] = a[3 * r] * b[c] + a[3 * r + 1] * b[3 + c] + a[3 * r + 2] * b[6 + c];
  return out;
}

export const transposed = (m: Turn): number[] => [m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]];

/** A turn about an axis by its length, radians (Rodrigues' formula). */
export function turnOf([x, y, z]: Vector): number[] {
  const angle = Math.hypot(x, y, z);
  if (angle < 1e-12) return [1, -z, y, z, 1, -x, -y, x, 1];
  const [a, b, c] = [x / angle, y / angle, z / angle];
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const k = 1 - cos;
  return [
    cos + a * a * k,
    a * b * k - c * sin,
    a * c * k + b * sin,
    b * a * k + c * sin,
    cos + b * b * k,
    b * c * k - a * sin,
    c * a * k - b * sin,
    c * b * k + a * sin,
    cos + c * c * k,
  ];
}

/** The inverse of a matrix of 3 × 3 up to its determinant, and that (Cramer's rule). */
export function adjugate([a, b, c, d, e, f, g, h, i]: readonly number[]): { matrix: number[]; determinant: number } {
  const matrix = [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ];
  return { matrix, determinant: a * matrix[0] + b * matrix[3] + c * matrix[6] };
}

/** The turn that is nearest to a matrix of determinant above 0 (polar decomposition, Higham 1986). */
export function nearestTurn(matrix: readonly number[]): number[] {
  let m = matrix.slice();
  for (let n = 0; n < 30; n++) {
    const inverse = adjugate(m);
    const other = transposed(inverse.matrix);
    m = m.map((v, k) => 0.5 * (v + other[k] / inverse.determinant));
  }
  return m;
}

/** Half the diagonal of a frame, px. */
export const reachOf = ({ width, height }: Pick<Camera, 'width' | 'height'>): number => Math.hypot(width, height) / 2;

/** The direction in the world that a pixel of a frame looks in; not of unit length. */
export function rayOf(camera: Camera, x: number, y: number): [number, number, number] {
  const { width, height, turn, focal, bend } = camera;
  const [dx, dy] = [x + 0.5 - width / 2, y + 0.5 - height / 2];
  const reach = reachOf(camera);
  const straight = (1 + (bend * (dx * dx + dy * dy)) / (reach * reach)) / focal;
  const [u, v] = [dx * straight, dy * straight];
  return [
    turn[0] * u + turn[3] * v + turn[6],
    turn[1] * u + turn[4] * v + turn[7],
    turn[2] * u + turn[5] * v + turn[8],
  ];
}

/** Where a frame sees a direction of the world, px (pixel centres at whole numbers); false where it is behind the camera. */
export function seenAt(camera: Camera, [X, Y, Z]: Vector, out: Float64Array | number[]): boolean {
  const { width, height, turn, focal, bend } = camera;
  const w = turn[6] * X + turn[7] * Y + turn[8] * Z;
  if (w <= 1e-6 * Math.hypot(X, Y, Z)) return false;
  let u = (focal * (turn[0] * X + turn[1] * Y + turn[2] * Z)) / w;
  let v = (focal * (turn[3] * X + turn[4] * Y + turn[5] * Z)) / w;
  if (bend) {
    const reach = reachOf(camera);
    const straight = Math.hypot(u, v) / reach;
    // Newton's method for r (1 + bend r²) = straight.
    let r = straight;
    for (let n = 0; n < 8; n++) r -= (r * (1 + bend * r * r) - straight) / (1 + 3 * bend * r * r);
    // Bent so much inwards that it is not unique: it is not seen.
    if (
      !(r >= 0) ||
      1 + 3 * bend * r * r <= 0.05 ||
      Math.abs(r * (1 + bend * r * r) - straight) > 1e-6 * (1 + straight)
    )
      return false;
    const scale = straight > 1e-12 ? r / straight : 1;
    u *= scale;
    v *= scale;
  }
  out[0] = u + width / 2 - 0.5;
  out[1] = v + height / 2 - 0.5;
  return true;
}
