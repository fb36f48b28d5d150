import { listed } from '../frame/words.ts';
import { grownBySquare, takeGroup } from '../mask/groups.ts';
import { outlineOf, simplified } from '../mask/outline.ts';
import type { Shape } from '../mask/shapes.ts';
import { cropPlane, isEmpty, type Box } from '../raster/raster.ts';
import type { Joined } from './join.ts';

/** How one frame was taken, and how it went in. */
export interface FrameAccount {
  belongs: boolean;
  /** px a radian in its middle, and the bending of its lens at a focal length off the middle */
  focal?: number;
  bend?: number;
  /** its turn as a matrix, by rows, and degrees that it leans */
  turn?: number[];
  leans?: number;
  /** stops by which it is lighter than the first */
  exposure?: number;
}

/** What is told of frames that were joined; frames by their places, lengths in px of the picture. */
export interface JoinAccount {
  width: number;
  height: number;
  projection: Joined['projection'];
  /** degrees to the side that is seen farther */
  degrees: number;
  /** root mean square of what matches differ by, px */
  error: number;
  matches: number;
  frames: FrameAccount[];
  /** stops that light falls off to the corners, by the square and the fourth power of the distance */
  fall: number[];
  /** frames that do not belong */
  left: number[];
  /** px where no frame shows anything */
  gaps: number;
  /** the largest part without gaps */
  whole: Box;
  /** in between of that and all, and px of it that are gaps; absent in pictures from before it was looked for */
  between?: Box & { gaps: number };
  /** places where a join runs through what moved */
  cuts: Joined['cuts'];
}

const hundredths = (v: number): number => Math.round(v * 100) / 100;
const DEGREES = 180 / Math.PI;

const gapsIn = (gaps: Uint8Array, width: number, box: Box): number =>
  cropPlane(gaps, width, box).reduce((sum, v) => sum + v, 0);

/** What there is to say of a join beside its pixels. */
export function accountOf(joined: Joined): JoinAccount {
  const { picture, gaps, cameras, light } = joined;
  return {
    width: picture.width,
    height: picture.height,
    projection: joined.projection,
    degrees: hundredths(joined.degrees),
    error: hundredths(joined.error),
    matches: joined.matches,
    frames: cameras.map((camera, n) => ({
      belongs: camera !== null,
      ...(camera && {
        focal: hundredths(camera.focal),
        bend: Math.round(camera.bend * 1e4) / 1e4,
        turn: camera.turn.map((v) => Math.round(v * 1e6) / 1e6),
        leans: hundredths(Math.atan2(camera.turn[3], camera.turn[0]) * DEGREES),
        exposure: hundredths(light.exposures[n]),
      }),
    })),
    fall: light.fall.map(hundredths),
    left: joined.left,
    gaps: gaps.reduce((sum, v) => sum + v, 0),
    whole: joined.whole,
    between: { ...joined.between, gaps: gapsIn(gaps, picture.width, joined.between) },
    cuts: joined.cuts,
  };
}

/** px by which an outline may pass beside its edge, and by which gaps are taken larger so that it holds all of them. */
const BESIDE = 1;
const LARGER = 3;

/** Which frames stayed out, in words; null where none did. @param names of all frames */
export function stayedOutInWords(names: readonly string[], { left }: Pick<JoinAccount, 'left'>): string | null {
  if (!left.length) return null;
  return `${listed(left.map((n) => names[n]))} ${left.length > 1 ? 'do' : 'does'} not belong with them and stayed out.`;
}

/**
 * Gaps as shapes, with some px of what lies beside them: at the rim of a frame it is not all there. One for each that hangs together
 * beside the largest part without any; a ring around it comes in four.
 */
export function gapShapes(gaps: Uint8Array, { width, height, whole }: JoinAccount): Shape[] {
  if (!gaps.includes(1)) return [];
  const grown = grownBySquare(gaps, width, height, LARGER);
  const [left, top] = [whole.x + (whole.x ? LARGER : 0), whole.y + (whole.y ? LARGER : 0)];
  const right = whole.x + whole.width - (whole.x + whole.width < width ? LARGER : 0);
  const bottom = whole.y + whole.height - (whole.y + whole.height < height ? LARGER : 0);
  const sides: Box[] = [
    { x: 0, y: 0, width, height: top },
    { x: 0, y: bottom, width, height: height - bottom },
    { x: 0, y: top, width: left, height: bottom - top },
    { x: right, y: top, width: width - right, height: bottom - top },
  ];
  const out: Shape[] = [];
  for (const side of sides) {
    if (isEmpty(side)) continue;
    const plane = cropPlane(grown, width, side);
    for (let start = plane.indexOf(1); start >= 0; start = plane.indexOf(1, start)) {
      const own = new Uint8Array(plane.length);
      for (const i of takeGroup(plane, start, side.width)) own[i] = 1;
      const points = outlineOf(own, side.width, side.height, side.x, side.y);
      // A line that comes back to where it began has no length to be simplified by: both its halves have.
      const half = points.length >> 1;
      const there = simplified(points.slice(0, half + 1), BESIDE);
      const back = simplified([...points.slice(half), points[0]], BESIDE);
      out.push({ op: 'add', kind: 'outline', points: [...there.slice(0, -1), ...back.slice(0, -1)] });
    }
  }
  return out;
}
