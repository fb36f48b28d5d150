import { boundsOf } from '../../../mask/mask.ts';
import { colourChannels, fullScale, type Box, type Raster } from '../../../raster/raster.ts';
import { fromFront, toFront } from '../grounds/plane.ts';
import type { Carried } from './carry-out.ts';
import { sampleWindow } from './front.ts';
import { shownAt } from './mirrored.ts';
import type { Part } from './plans.ts';
import { toneAt } from './tone.ts';

/** Copies each piece's pixels with their correction of tone, over what other grounds have laid there. */
export function paint(
  out: Raster,
  picture: Raster,
  window: Box,
  cover: Uint8Array,
  part: Part,
  toneShare: number,
): void {
  const { carried, share, plane, beneath } = part;
  const { box, labels, moves } = carried.pieces;
  const { channels, data } = picture;
  const colours = colourChannels(channels);
  const top = fullScale(picture.depth);
  const scale = (toneShare * top) / 255;
  const add = new Float32Array(3);
  const write = (px: number, py: number, at: number, value: (c: number) => number) => {
    const own = share ? share(px + 0.5, py + 0.5) : 1;
    if (own <= 0) return;
    correction(carried, at, add);
    const to = ((window.y + py) * out.width + window.x + px) * channels;
    for (let c = 0; c < colours; c++) {
      const v = Math.min(top, Math.max(0, value(c) + scale * add[c]));
      out.data[to + c] = Math.round(own === 1 ? v : own * v + (1 - own) * out.data[to + c]);
    }
  };
  if (!plane) {
    for (let y = 0, i = 0; y < box.height; y++) {
      for (let x = 0; x < box.width; x++, i++) {
        const piece = labels[i];
        if (piece < 0) continue;
        const [px, py] = [box.x + x, box.y + y];
        const [fx, fy] = shownAt(picture.width, beneath, px + moves[piece].x, py + moves[piece].y);
        const from = (fy * picture.width + fx) * channels;
        write(px, py, i, (c) => data[from + c]);
      }
    }
    return;
  }
  // Each covered pixel takes the piece that lies there on the plane, and samples the picture once, where that piece comes from.
  const area = boundsOf({ x: 0, y: 0, width: picture.width, height: picture.height, data: cover });
  const place = new Float64Array(2);
  const pieceAt = (x: number, y: number): number => {
    if (!toFront(plane, x, y, place)) return -1;
    const u = Math.floor(place[0]) - box.x;
    const v = Math.floor(place[1]) - box.y;
    const i = v * box.width + u;
    return u >= 0 && v >= 0 && u < box.width && v < box.height && labels[i] >= 0 ? i : -1;
  };
  const found = new Int32Array(area.width * area.height).fill(-1);
  for (let y = 0, n = 0; y < area.height; y++)
    for (let x = 0; x < area.width; x++, n++)
      if (cover[(area.y + y) * picture.width + area.x + x]) found[n] = pieceAt(area.x + x + 0.5, area.y + y + 0.5);
  const donor = (x: number, y: number, to: Float64Array) => {
    const i = pieceAt(x, y);
    const move = moves[labels[i]];
    if (!fromFront(plane, place[0] + move.x, place[1] + move.y, to)) to[0] = to[1] = -1;
  };
  const sampled = sampleWindow(
    picture,
    area,
    donor,
    Uint8Array.from(found, (i) => (i >= 0 ? 1 : 0)),
  );
  for (let n = 0; n < found.length; n++) {
    if (found[n] < 0) continue;
    const x = n % area.width;
    write(area.x + x, area.y + (n - x) / area.width, found[n], (c) => sampled.values[n * colours + c]);
  }
}

/** The correction of tone of a pixel of a cover's box. */
function correction({ pieces, tone, joined }: Carried, i: number, add: Float32Array): void {
  const node = joined.node[i];
  if (node >= 0) {
    for (let c = 0; c < 3; c++) add[c] = joined.add[4 * node + c];
    return;
  }
  const { box, labels } = pieces;
  const x = i % box.width;
  toneAt(tone, labels[i], box.x + x, box.y + (i - x) / box.width, add);
}
