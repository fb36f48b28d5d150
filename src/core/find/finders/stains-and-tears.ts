import { boxMean, quantile } from '../../raster/luma.ts';
import { sigmoid, type Find, type Finder } from '../find.ts';
import { toldByInk } from './ink.ts';
import { tornOutline } from './torn.ts';
import { groupsOf, isPrint, outlineShape, paperOf, scaledBox, smallPicture } from './blobs.ts';

/**
 * Finds tears and missing corners of a scanned print: even areas at its border that are no paper.
 * Only where the rim of the picture is mostly paper, as in scans with a white border. Source: own.
 */
export const tears: Finder = {
  find({ picture }) {
    const small = smallPicture(picture, 640);
    const { width, height, L, a, b } = small;
    const paper = paperOf(small);
    if (paper.share < 0.5) return [];
    const out: Find[] = [];
    const seen = new Uint8Array(width * height);
    const starts: number[] = [];
    for (let x = 0; x < width; x++) starts.push(x, (height - 1) * width + x);
    for (let y = 0; y < height; y++) starts.push(y * width, y * width + width - 1);
    for (const start of starts) {
      if (seen[start] || Math.abs(L[start] - paper.lightness) < 12) continue;
      const mask = new Uint8Array(width * height);
      const stack = [start];
      seen[start] = mask[start] = 1;
      let n = 0;
      while (stack.length) {
        const i = stack.pop()!;
        n++;
        const x = i % width;
        for (const j of [i - 1, i + 1, i - width, i + width]) {
          if (j < 0 || j >= mask.length || seen[j]) continue;
          if ((j === i - 1 && x === 0) || (j === i + 1 && x === width - 1)) continue;
          if (Math.hypot(L[j] - L[start], a[j] - a[start], b[j] - b[start]) > 9) continue;
          seen[j] = mask[j] = 1;
          stack.push(j);
        }
      }
      if (n < 30) continue;
      const [group] = groupsOf(mask, width, height);
      const { box } = group;
      if (box.width > 0.6 * width || box.height > 0.6 * height) continue;
      const score = sigmoid(-1 + Math.min(3, n / 300) + Math.abs(L[start] - paper.lightness) / 25);
      const placed = scaledBox(box, small.scale, picture);
      const at = (v: number, from: number) => Math.floor(v / small.scale) - from;
      const rough = (px: number, py: number) => {
        const [u, v] = [at(px, box.x), at(py, box.y)];
        return u >= 0 && v >= 0 && u < box.width && v < box.height && group.mask[v * box.width + u] > 0;
      };
      out.push({
        kind: 'tear',
        score,
        shapes: [tornOutline(picture, placed, rough, paper.lightness)],
        box: placed,
        width: Math.min(placed.width, placed.height),
        length: Math.max(placed.width, placed.height),
        contrast: (L[start] - paper.lightness) * 2.55,
      });
    }
    return out;
  },
};

/** Share of a picture's long side that the surroundings of a stain reach. */
const AROUND = 0.12;

/**
 * Finds stains on prints of one tint: patches whose colour departs from the tint of what is around, with an edge.
 * In a picture of many colours a stain cannot be told from a thing of its own colour, so nothing is said there.
 * Source: own.
 */
export const stains: Finder = {
  find({ picture }) {
    const small = smallPicture(picture, 320);
    const { width, height, L } = small;
    const chroma = small.b.map((v, i) => v - 0.5 * small.a[i]);
    if (!isPrint(small)) return [];
    // The tint of a print goes with its lightness: what the lightness explains is taken out first.
    const bins = Array.from({ length: 20 }, () => [] as number[]);
    for (let i = 0; i < L.length; i++) bins[Math.min(19, Math.max(0, Math.floor(L[i] / 5)))].push(chroma[i]);
    const usual = bins.map((list) => (list.length > 20 ? quantile(list, 0.5) : NaN));
    const rest = chroma.map((v, i) => {
      const u = usual[Math.min(19, Math.max(0, Math.floor(L[i] / 5)))];
      return u === u ? v - u : 0;
    });
    const fine = boxMean({ width, height, data: rest }, 1).data;
    const around = boxMean({ width, height, data: rest }, Math.round(AROUND * Math.max(width, height))).data;
    // Beside a stain it is the mean around that departs, not the place itself.
    const off = fine.map((v, i) => Math.min(Math.abs(v), Math.abs(v - around[i])));
    const usualOff = quantile(off, 0.7) + 0.35;
    const marked = Uint8Array.from(off, (v) => (v > 2.6 * usualOff ? 1 : 0));
    const out: Find[] = [];
    for (const group of groupsOf(marked, width, height)) {
      const share = group.area / (width * height);
      if (share < 0.0006 || share > 0.15) continue;
      const filled = group.area / (group.box.width * group.box.height);
      let sum = 0;
      let n = 0;
      for (let v = 0, k = 0; v < group.box.height; v++) {
        for (let u = 0; u < group.box.width; u++, k++) {
          if (!group.mask[k]) continue;
          const i = (group.box.y + v) * width + group.box.x + u;
          sum += off[i];
          n++;
        }
      }
      const score = sigmoid(-4.2 + 0.9 * Math.min(5, sum / n / usualOff) + 1.6 * filled + 12 * Math.min(0.05, share));
      if (score < 0.1) continue;
      const box = scaledBox(group.box, small.scale, picture);
      out.push({
        kind: 'stain',
        score,
        shapes: [outlineShape(group, small.scale, picture)],
        box,
        width: Math.min(box.width, box.height),
        length: Math.max(box.width, box.height),
        contrast: -(sum / n),
      });
    }
    const { lettering, unwritten } = toldByInk(
      picture,
      out.map((f) => f.box),
    );
    return [...out.filter((_, n) => unwritten[n]), ...lettering];
  },
};
