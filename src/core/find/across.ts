import type { Point } from '../mask/shapes.ts';

/** What was measured across a line, at each of its points. */
export interface Measured {
  /** offset of the true centre across the line; 0 where nothing was seen */
  offsets: number[];
  /** 0 where nothing was seen */
  widths: number[];
  blurs: number[];
  contrasts: number[];
}

/** Profiles to both sides along the line with which each is averaged. */
const ALONG = 3;

/** Measures the strand across the line: a profile at each point, averaged along the line, its centre and width at half height. */
export function measure(read: (x: number, y: number) => number, line: Point[], guess: number): Measured {
  const out: Measured = { offsets: [], widths: [], blurs: [], contrasts: [] };
  const reach = Math.ceil(1.2 * guess + 6);
  // Wide strands are soft enough to be read at fewer places.
  const perPx = guess > 16 ? 1 : guess > 8 ? 2 : 4;
  const size = 2 * reach * perPx + 1;
  const profiles = line.map((p, i) => {
    const a = line[Math.max(0, i - ALONG)];
    const b = line[Math.min(line.length - 1, i + ALONG)];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const nx = -(b[1] - a[1]) / span;
    const ny = (b[0] - a[0]) / span;
    const profile = new Float32Array(size);
    for (let k = 0; k < size; k++) {
      const t = k / perPx - reach;
      profile[k] = read(p[0] + nx * t, p[1] + ny * t);
    }
    return profile;
  });
  const sum = new Float64Array(size);
  const mean = new Float32Array(size);
  const add = (j: number, sign: 1 | -1) => {
    const profile = profiles[j];
    if (profile) for (let k = 0; k < size; k++) sum[k] += sign * profile[k];
  };
  for (let j = 0; j < ALONG; j++) add(j, 1);
  for (let i = 0; i < line.length; i++) {
    add(i + ALONG, 1);
    add(i - ALONG - 1, -1);
    const n = Math.min(line.length - 1, i + ALONG) - Math.max(0, i - ALONG) + 1;
    for (let k = 0; k < size; k++) mean[k] = sum[k] / n;
    const found = ridgeOf(mean, reach, perPx, guess);
    out.offsets.push(found?.centre ?? 0);
    out.widths.push(found?.width ?? 0);
    out.blurs.push(found?.blur ?? 0);
    out.contrasts.push(found?.contrast ?? 0);
  }
  return out;
}

/** Share of its height by which a strand is beyond the nearer in tone of its sides, at the least. */
const BEYOND = 0.05;

function ridgeOf(profile: Float32Array, reach: number, perPx: number, guess: number) {
  const at = (t: number) => Math.round((t + reach) * perPx);
  const side = (from: number, to: number) => {
    let s = 0;
    let n = 0;
    for (let k = Math.max(0, at(from)); k <= Math.min(profile.length - 1, at(to)); k++, n++) s += profile[k];
    return n ? s / n : 0;
  };
  const near = 0.75 * guess + 1.5;
  const far = near + Math.max(2, 0.4 * guess);
  const left = side(-far, -near);
  const right = side(near, far);
  const ground = (k: number) => {
    const t = k / perPx - reach;
    const share = Math.min(1, Math.max(0, (t + near) / (2 * near)));
    return left + (right - left) * share;
  };
  let peak = 0;
  let peakAt = -1;
  const window = Math.max(1.5, 0.5 * guess);
  for (let k = at(-window); k <= at(window); k++) {
    const c = profile[k] - ground(k);
    if (Math.abs(c) > Math.abs(peak)) {
      peak = c;
      peakAt = k;
    }
  }
  // What is not darker or lighter than both its sides is an edge.
  const stands = peak < 0 ? Math.min(left, right) - profile[peakAt] : profile[peakAt] - Math.max(left, right);
  if (Math.abs(peak) < 3 || stands < BEYOND * Math.abs(peak)) return undefined;
  const height = (k: number) => (profile[k] - ground(k)) / peak;
  const crossing = (direction: 1 | -1): { half: number; slope: number } | undefined => {
    for (let k = peakAt; k > 0 && k < profile.length - 1; k += direction) {
      const a = height(k);
      const b = height(k + direction);
      if (a >= 0.5 && b < 0.5) {
        const slope = Math.abs(height(Math.max(0, k - perPx)) - height(Math.min(profile.length - 1, k + perPx))) / 2;
        return { half: (k + (direction * (a - 0.5)) / (a - b)) / perPx - reach, slope };
      }
    }
    return undefined;
  };
  const l = crossing(-1);
  const r = crossing(1);
  if (!l || !r) return undefined;
  const width = r.half - l.half;
  if (width > 2.2 * guess + 4) return undefined;
  // A step blurred by σ has the slope 1 / (σ √2π); sampling itself blurs by about 0.4 px.
  const sigma = 1 / (Math.max(0.05, (l.slope + r.slope) / 2) * Math.sqrt(2 * Math.PI));
  return { centre: (l.half + r.half) / 2, width, blur: Math.sqrt(Math.max(0, sigma * sigma - 0.25)), contrast: peak };
}
