/** CIELAB of a colour: lightness 0…100, a and b about −128…127. */
export type Lab = [L: number, a: number, b: number];

const linear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const cube = (t: number) => (t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116);

/**
 * sRGB (0…255 each) to CIELAB, white point D65.
 * Source: IEC 61966-2-1 (sRGB), CIE 15:2004 (CIELAB).
 */
export function labOf(red: number, green: number, blue: number): Lab {
  const r = linear(red / 255);
  const g = linear(green / 255);
  const b = linear(blue / 255);
  const x = cube((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
  const y = cube(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
  const z = cube((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/** Levels of sRGB in steps of an eighth, as linear light. */
const STEPS = 8;
const LIGHT = Float64Array.from({ length: 255 * STEPS + 2 }, (_, k) => linear(k / STEPS / 255));
const lightOf = (v: number) => {
  const at = v * STEPS;
  const k = at | 0;
  return LIGHT[k] + (LIGHT[k + 1] - LIGHT[k]) * (at - k);
};

/** Cube roots as CIELAB has them, of 0 to a little over 1, in so many steps. */
const ROOTS = 16_384;
const CUBES = Float64Array.from({ length: Math.ceil(1.01 * ROOTS) }, (_, k) => cube(k / ROOTS));
const rootOf = (t: number) => {
  const at = t * ROOTS;
  const k = at | 0;
  return CUBES[k] + (CUBES[k + 1] - CUBES[k]) * (at - k);
};

/** A chroma to the seventh power, which all colours but strong ones barely have, beside that of 25; its root. */
function weakness(chroma: number): number {
  const square = chroma * chroma;
  const seventh = square * square * square * chroma;
  return Math.sqrt(seventh / (seventh + 6_103_515_625));
}

/**
 * {@link labOf} for many: linear light and roots from tables, which is off by less than 0.001; into three planes.
 * @param red 0…255, as green and blue
 */
export function labInto(
  planes: Readonly<Record<'L' | 'a' | 'b', Float32Array>>,
  at: number,
  red: number,
  green: number,
  blue: number,
): void {
  const r = lightOf(red);
  const g = lightOf(green);
  const b = lightOf(blue);
  const x = rootOf((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / 0.95047);
  const y = rootOf(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
  const z = rootOf((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / 1.08883);
  planes.L[at] = 116 * y - 16;
  planes.a[at] = 500 * (x - y);
  planes.b[at] = 200 * (y - z);
}

/**
 * Colour difference CIEDE2000 with all parametric factors 1; about 1 is just seen side by side.
 * Source: Sharma, Wu & Dalal, "The CIEDE2000 Color-Difference Formula: Implementation Notes, Supplementary Test Data, and
 * Mathematical Observations", 2005.
 */
export function ciede2000([L1, a1, b1]: Lab, [L2, a2, b2]: Lab): number {
  const mean = (Math.sqrt(a1 * a1 + b1 * b1) + Math.sqrt(a2 * a2 + b2 * b2)) / 2;
  const g = 0.5 * (1 - weakness(mean));
  const A1 = (1 + g) * a1;
  const A2 = (1 + g) * a2;
  const C1 = Math.sqrt(A1 * A1 + b1 * b1);
  const C2 = Math.sqrt(A2 * A2 + b2 * b2);
  const degrees = (y: number, x: number) => (x === 0 && y === 0 ? 0 : ((Math.atan2(y, x) * 180) / Math.PI + 360) % 360);
  const h1 = degrees(b1, A1);
  const h2 = degrees(b2, A2);
  const dL = L2 - L1;
  const dC = C2 - C1;
  let dh = 0;
  if (C1 * C2 !== 0) {
    dh = h2 - h1;
    if (dh > 180) dh -= 360;
    else if (dh < -180) dh += 360;
  }
  const rad = Math.PI / 180;
  const dH = 2 * Math.sqrt(C1 * C2) * Math.sin((dh / 2) * rad);
  const L = (L1 + L2) / 2;
  const C = (C1 + C2) / 2;
  let h = h1 + h2;
  if (C1 * C2 !== 0) {
    if (Math.abs(h1 - h2) <= 180) h = (h1 + h2) / 2;
    else h = h1 + h2 < 360 ? (h1 + h2 + 360) / 2 : (h1 + h2 - 360) / 2;
  }
  const T =
    1 -
    0.17 * Math.cos((h - 30) * rad) +
    0.24 * Math.cos(2 * h * rad) +
    0.32 * Math.cos((3 * h + 6) * rad) -
    0.2 * Math.cos((4 * h - 63) * rad);
  const turn = 30 * Math.exp(-(((h - 275) / 25) ** 2));
  const RC = 2 * weakness(C);
  const SL = 1 + (0.015 * (L - 50) ** 2) / Math.sqrt(20 + (L - 50) ** 2);
  const SC = 1 + 0.045 * C;
  const SH = 1 + 0.015 * C * T;
  const RT = -Math.sin(2 * turn * rad) * RC;
  return Math.sqrt((dL / SL) ** 2 + (dC / SC) ** 2 + (dH / SH) ** 2 + RT * (dC / SC) * (dH / SH));
}
