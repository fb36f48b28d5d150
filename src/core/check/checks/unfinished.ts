import { ciede2000, labOf, type Lab } from '../../tone/lab.ts';
import { boundsOf, type Mask } from '../../mask/mask.ts';
import { colourChannels, type Raster } from '../../raster/raster.ts';
import type { Sign } from '../finding.ts';
import { inPicture, type Place } from '../place.ts';

/** Share of a cover that may be as it was before. */
const LEFT = 0.2;
/** px of a cover from which on it is told. */
const LEAST = 30;
/** CIEDE2000 by which what is left has to differ from what is around: the margin of a cover may well be as it was. */
const DIFFERS = 3;

/** Mean colour of the px for which something holds. */
function meanOf({ data, channels, depth }: Raster, holds: (i: number) => boolean, count: number): Lab | null {
  const colours = colourChannels(channels);
  const sum = [0, 0, 0];
  let n = 0;
  for (let i = 0; i < count; i++) {
    if (!holds(i)) continue;
    n++;
    for (let c = 0; c < 3; c++) sum[c] += data[i * channels + Math.min(c, colours - 1)];
  }
  const scale = depth === 16 ? 257 * n : n;
  return n ? labOf(sum[0] / scale, sum[1] / scale, sum[2] / scale) : null;
}

/** Covers under which the picture still is as it was before. Exact comparison. */
export function unfinished(place: Place): Sign[] {
  const { before, after, what, width, height } = place;
  if (!before) return [];
  const { channels } = after;
  const colours = colourChannels(channels);
  const left: Mask = { x: 0, y: 0, width, height, data: new Uint8Array(width * height) };
  let [covered, same] = [0, 0];
  for (let i = 0; i < what.length; i++) {
    if (what[i] !== 1) continue;
    covered++;
    let equal = true;
    for (let c = 0; c < colours && equal; c++)
      equal = after.data[i * channels + c] === before.data[i * before.channels + c];
    if (!equal) continue;
    same++;
    left.data[i] = 1;
  }
  if (covered < LEAST || same < LEFT * covered) return [];
  const [own, around] = [
    meanOf(after, (i) => left.data[i] === 1, what.length),
    meanOf(after, (i) => what[i] === 0, what.length),
  ];
  const off = own && around ? ciede2000(own, around) : 0;
  if (off < DIFFERS) return [];
  const box = boundsOf(left);
  return [
    {
      kind: 'unfinished',
      box: inPicture(place, box),
      figure: (100 * same) / covered,
      unit: '% is as it was',
      difference: off,
      across: Math.min(box.width, box.height),
      along: Math.max(box.width, box.height),
      remedy: 'treat',
    },
  ];
}
