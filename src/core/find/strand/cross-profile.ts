import type { Point } from '../../mask/shapes.ts';

/** What was measured across a line, at each of its points. */
export interface CrossProfile {
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
export function crossProfile(read: (x: number, y: number) => number, line: Point[], guess: number): CrossProfile {
  const out: CrossProfile = { offsets: [], widths: [], blurs: [], contrasts: [] };
  const reach = Math.ceil(1.2 * guess + 6);
  // Wide strands are soft enough to be read at fewer places.
  const perPx = guess > 16 ? 1 : guess > 8 ? 2 : 4;
  const size = 2 * reach * perPx + 1;
  /** one profile after the other */
  const profiles = new Float32Array(line.length * size);
  line.forEach((p, i) => {
    const a = line[Math.max(0, i - ALONG)];
    const b = line[Math.min(line.length - 1, i + ALONG)];
    const span = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const nx = -(b[1] - a[1]) / span;
    const ny = (b[0] - a[0]) / span;
    for (let k = 0, at = i * size; k < size; k++, at++) {
      const t = k / perPx - reach;
      profiles[at] = read(p[0] + nx * t, p[1] + ny * t);
    }
  });
  const sum = new Float64Array(size);
  const mean = new Float32Array(size);
  const ground = new Float32Array(size);
  const add = (j: number, sign: 1 | -1) => {
    if (j < 0 || j >= line.length) return;
    for (let k = 0, at = j * size; k < size; k++, at++) sum[k] += sign * profiles[at];
  };
  for (let j = 0; j < ALONG; j++) add(j, 1);
  for (let i = 0; i < line.length; i++) {
    add(i + ALONG, 1);
    add(i - ALONG - 1, -1);
    const n = Math.min(line.length - 1, i + ALONG) - Math.max(0, i - ALONG) + 1;
    for (let k = 0; k < size; k++) mean[k] = sum[k] / n;
    const found = ridgeOf(mean, ground, reach, perPx, guess);
    out.offsets.push(found?.centre ?? 0);
    out.widths.push(found?.width ?? 0);
    out.blurs.push(found?.blur ?? 0);
    out.contrasts.push(found?.contrast ?? 0);
  }
  return out;
}

/** Share of its height by which a strand is beyond the nearer in tone of its sides, at the least. */
const BEYOND = 0.05;

/** Mean of a profile from one of its samples to another, as far as it reaches; 0 where it does not. */
function meanBetween(profile: Float32Array, from: number, to: number): number {
  const first = Math.max(0, from);
  const last = Math.min(profile.length - 1, to);
  let sum = 0;
  for (let k = first; k <= last; k++) sum += profile[k];
  return last < first ? 0 : sum / (last - first + 1);
}

/** A profile across a line, the ground that runs on under it from side to side, and where it differs from that the most. */
interface Peak {
  profile: Float32Array;
  ground: Float32Array;
  height: number;
  at: number;
}

/** Share of its height to which a profile comes up at a sample. */
const shareAt = ({ profile, ground, height }: Peak, k: number): number => (profile[k] - ground[k]) / height;

/** Where a peak falls to half its height on one side, in samples, and how steeply, in shares of it a px. */
function crossing(peak: Peak, direction: 1 | -1, perPx: number): { half: number; slope: number } | undefined {
  const last = peak.profile.length - 1;
  for (let k = peak.at; k > 0 && k < last; k += direction) {
    const a = shareAt(peak, k);
    const b = shareAt(peak, k + direction);
    if (a < 0.5 || b >= 0.5) continue;
    const rise = shareAt(peak, Math.max(0, k - perPx)) - shareAt(peak, Math.min(last, k + perPx));
    return { half: k + (direction * (a - 0.5)) / (a - b), slope: Math.abs(rise) / 2 };
  }
  return undefined;
}

/**
 * What stands out in the middle of a profile: its centre and width in px at half height, blur and contrast; undefined
 * when nothing about as wide as `guess` does.
 * @param ground as long as the profile, for what runs on under it
 */
function ridgeOf(profile: Float32Array, ground: Float32Array, reach: number, perPx: number, guess: number) {
  const near = 0.75 * guess + 1.5;
  const far = near + Math.max(2, 0.4 * guess);
  const sample = [-far, -near, near, far].map((t) => Math.round((t + reach) * perPx));
  const left = meanBetween(profile, sample[0], sample[1]);
  const right = meanBetween(profile, sample[2], sample[3]);
  for (let k = 0; k < ground.length; k++) {
    const share = Math.min(1, Math.max(0, (k / perPx - reach + near) / (2 * near)));
    ground[k] = left + (right - left) * share;
  }
  const window = Math.max(1.5, 0.5 * guess);
  const peak: Peak = { profile, ground, height: 0, at: -1 };
  const last = Math.round((window + reach) * perPx);
  for (let k = Math.round((reach - window) * perPx); k <= last; k++) {
    const height = profile[k] - ground[k];
    if (Math.abs(height) > Math.abs(peak.height)) {
      peak.height = height;
      peak.at = k;
    }
  }
  // What is not darker or lighter than both its sides is an edge.
  const top = profile[peak.at];
  const stands = peak.height < 0 ? Math.min(left, right) - top : top - Math.max(left, right);
  if (Math.abs(peak.height) < 3 || stands < BEYOND * Math.abs(peak.height)) return undefined;
  const l = crossing(peak, -1, perPx);
  const r = crossing(peak, 1, perPx);
  if (!l || !r) return undefined;
  const width = (r.half - l.half) / perPx;
  if (width > 2.2 * guess + 4) return undefined;
  // A step blurred by σ has the slope 1 / (σ √2π); sampling itself blurs by about 0.4 px.
  const sigma = 1 / (Math.max(0.05, (l.slope + r.slope) / 2) * Math.sqrt(2 * Math.PI));
  return {
    centre: (l.half + r.half) / 2 / perPx - reach,
    width,
    blur: Math.sqrt(Math.max(0, sigma * sigma - 0.25)),
    contrast: peak.height,
  };
}
