import { distanceTransform } from '../../mask/distance.ts';
import { rasterise } from '../../mask/shapes.ts';
import { boxMean, halfPlane, quantile, type Plane } from '../../raster/luma.ts';
import { sigmoid, type Find, type Finder } from '../find.ts';
import { groupsOf, outlineShape } from './blobs.ts';

/** What is left of a backdrop's luma once its fall-off of light, a surface of second order, is taken out. */
function withoutFallOff({ width, height, data }: Plane, known: ArrayLike<number>): Float32Array {
  const terms = (x: number, y: number) => {
    const [u, v] = [x / width - 0.5, y / height - 0.5];
    return [1, u, v, u * u, u * v, v * v];
  };
  const m = Array.from({ length: 6 }, () => new Float64Array(7));
  const step = Math.max(1, Math.round(Math.sqrt(data.length / 40_000)));
  for (let y = 0; y < height; y += step) {
    for (let x = 0; x < width; x += step) {
      const i = y * width + x;
      if (!known[i]) continue;
      const t = terms(x, y);
      for (let a = 0; a < 6; a++) {
        for (let b = 0; b < 6; b++) m[a][b] += t[a] * t[b];
        m[a][6] += t[a] * data[i];
      }
    }
  }
  for (let a = 0; a < 6; a++) m[a][a] += 1e-6;
  for (let a = 0; a < 6; a++)
    for (let b = 0; b < 6; b++) {
      if (a === b) continue;
      const f = m[b][a] / m[a][a];
      for (let k = a; k < 7; k++) m[b][k] -= f * m[a][k];
    }
  const c = m.map((row, a) => row[6] / row[a]);
  const out = new Float32Array(data.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) out[i] = data[i] - terms(x, y).reduce((s, t, k) => s + t * c[k], 0);
  return out;
}

/**
 * Finds scuffs on a backdrop: places where the mean tone over a few pixels departs from the fall-off of light by more than the
 * backdrop's own weave and mottling ever does. The comparison is with the backdrop itself, so its weave is no fault.
 * Needs an outlined backdrop. Source: own; robust deviation (median absolute) is common practice.
 */
export const scuffs: Finder = {
  find({ picture, luma, backdrop }, onProgress) {
    if (!backdrop?.length) return [];
    let plane: Plane = { width: picture.width, height: picture.height, data: luma };
    let scale = 1;
    const whole = rasterise(backdrop, { x: 0, y: 0, width: picture.width, height: picture.height }).data;
    let inside: Plane = {
      width: plane.width,
      height: plane.height,
      data: Float32Array.from(whole, (v) => (v ? 1 : 0)),
    };
    while (Math.max(plane.width, plane.height) > 2200) {
      plane = halfPlane(plane);
      inside = halfPlane(inside);
      scale *= 2;
    }
    const { width, height } = plane;
    const known = inside.data.map((v) => (v > 0.99 ? 1 : 0));
    const bulk = distanceTransform(Uint8Array.from(known), width, height, 'outside');
    plane = { ...plane, data: withoutFallOff(plane, known) };
    const meanOf = (radius: number) => {
      const sum = boxMean({ width, height, data: plane.data.map((v, i) => v * known[i]) }, radius).data;
      const n = boxMean({ width, height, data: known }, radius).data;
      return sum.map((v, i) => (n[i] > 1e-3 ? v / n[i] : 0));
    };
    const far = meanOf(40);
    const marked = new Uint8Array(width * height);
    const strength = new Float32Array(width * height);
    [1, 2, 4, 7].forEach((radius, step) => {
      const near = meanOf(radius);
      const off: number[] = [];
      for (let i = 0; i < known.length; i += 7) if (known[i]) off.push(Math.abs(near[i] - far[i]));
      const usual = quantile(off, 0.5) / 0.6745 + 0.2;
      for (let i = 0; i < known.length; i++) {
        if (!known[i] || bulk[i] < radius + 2) continue;
        const z = Math.abs(near[i] - far[i]) / usual;
        if (z > strength[i]) strength[i] = z;
        if (z > 3.6) marked[i] = 1;
      }
      onProgress?.((step + 1) / 5);
    });
    const out: Find[] = [];
    for (const group of groupsOf(marked, width, height)) {
      if (group.area < 6) break;
      let peak = 0;
      let sum = 0;
      for (let v = 0, k = 0; v < group.box.height; v++) {
        for (let u = 0; u < group.box.width; u++, k++) {
          if (!group.mask[k]) continue;
          const i = (group.box.y + v) * width + group.box.x + u;
          peak = Math.max(peak, strength[i]);
          sum += plane.data[i] - far[i];
        }
      }
      const score = sigmoid(-7 + 1.1 * Math.min(9, peak) + 0.5 * Math.log(group.area));
      if (score < 0.08) continue;
      const box = {
        x: group.box.x * scale,
        y: group.box.y * scale,
        width: group.box.width * scale,
        height: group.box.height * scale,
      };
      out.push({
        kind: 'scuff',
        score,
        shapes: [outlineShape(group, scale, picture)],
        box,
        width: Math.min(box.width, box.height),
        length: Math.max(box.width, box.height),
        contrast: sum / group.area,
      });
    }
    return out.slice(0, 600);
  },
};
