import { blur } from '../../raster/planes.ts';
import { rasterise } from '../../mask/shapes.ts';
import { quantile } from '../../raster/luma.ts';
import { sigmoid, type Find, type Finder, type FindInput } from '../find.ts';
import { groupsOf, outlineShape, scaledBox, smallPicture } from './blobs.ts';

/** How much each place of a picture draws the eye when it is seen whole, 0…1. */
export interface Attention {
  width: number;
  height: number;
  /** px of the picture to one of these */
  scale: number;
  data: Float32Array;
  /** CIELAB lightness */
  lightness: Float32Array;
}

/** Long side in px at which a picture is judged from arm's length. */
const ARMS_LENGTH = 240;

/**
 * What draws the eye: colour difference to the mean of the whole, and centre against surround at three scales, in CIELAB.
 * Source: Achanta et al., "Frequency-tuned Salient Region Detection", 2009; centre–surround after Itti, Koch & Niebur, "A Model
 * of Saliency-Based Visual Attention", 1998.
 */
export function attentionOf({ picture }: Pick<FindInput, 'picture'>): Attention {
  const small = smallPicture(picture, ARMS_LENGTH);
  const { width, height, scale } = small;
  const lanes = [small.L, small.a, small.b];
  const soft = lanes.map((lane) => blur(lane, width, height, 1));
  const out = new Float32Array(width * height);
  const means = lanes.map((lane) => lane.reduce((s, v) => s + v, 0) / lane.length);
  for (let i = 0; i < out.length; i++)
    out[i] = 0.25 * Math.hypot(soft[0][i] - means[0], soft[1][i] - means[1], soft[2][i] - means[2]);
  for (const sigma of [4, 8, 16]) {
    const around = lanes.map((lane) => blur(lane, width, height, sigma));
    for (let i = 0; i < out.length; i++)
      out[i] += Math.hypot(
        soft[0][i] - around[0][i],
        1.3 * (soft[1][i] - around[1][i]),
        1.3 * (soft[2][i] - around[2][i]),
      );
  }
  const top = Math.max(1e-3, quantile(out, 0.999));
  for (let i = 0; i < out.length; i++) out[i] = Math.min(1, out[i] / top);
  return { width, height, scale, data: out, lightness: small.L };
}

/** Finds what draws the eye away from the subject: small places that stand out from afar, more so at the frame's edge. */
export const saliency: Finder = {
  find(input) {
    const { picture, subject } = input;
    const map = attentionOf(input);
    const { width, height, scale } = map;
    const kept = subject?.length
      ? rasterise(subject, { x: 0, y: 0, width: picture.width, height: picture.height }).data
      : undefined;
    const limit = Math.max(0.3, quantile(map.data, 0.965));
    const marked = new Uint8Array(width * height);
    for (let y = 0, i = 0; y < height; y++) {
      for (let x = 0; x < width; x++, i++) {
        if (map.data[i] < limit) continue;
        const px = Math.min(picture.width - 1, Math.round((x + 0.5) * scale));
        const py = Math.min(picture.height - 1, Math.round((y + 0.5) * scale));
        if (!kept?.[py * picture.width + px]) marked[i] = 1;
      }
    }
    const out: Find[] = [];
    for (const group of groupsOf(marked, width, height)) {
      const share = group.area / (width * height);
      if (group.area < 4 || share > 0.03) continue;
      let peak = 0;
      for (let v = 0, k = 0; v < group.box.height; v++)
        for (let u = 0; u < group.box.width; u++, k++)
          if (group.mask[k]) peak = Math.max(peak, map.data[(group.box.y + v) * width + group.box.x + u]);
      const edge =
        group.box.x < 2 ||
        group.box.y < 2 ||
        group.box.x + group.box.width > width - 2 ||
        group.box.y + group.box.height > height - 2;
      const compact = group.area / (group.box.width * group.box.height);
      const score = sigmoid(-5 + 5 * peak + 1.5 * compact + (edge ? 0.6 : 0) - 25 * share);
      const box = scaledBox(group.box, scale, picture);
      out.push({
        kind: 'object',
        score,
        shapes: [outlineShape(group, scale, picture)],
        box,
        width: Math.min(box.width, box.height),
        length: Math.max(box.width, box.height),
        contrast: 0,
      });
    }
    return out.sort((a, b) => b.score - a.score).slice(0, 40);
  },
};
