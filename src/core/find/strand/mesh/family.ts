import type { Point } from '../../../mask/shapes.ts';
import { channelPlane, halfPlane, lumaPlane, quantile } from '../../../raster/luma.ts';
import { colourChannels, type Raster } from '../../../raster/raster.ts';
import { channelReader, planeReader, type Channel } from '../straightened-band.ts';
import { usualWidth } from '../strand-cover.ts';
import type { TracedStrand } from '../traced-strand.ts';

/** px from place to place along a strand, as it is followed. */
export const STEP = 3;

/** Levels by which a strand stands out well enough. */
const ENOUGH = 20;
/** Levels by which a strand may always differ from the tone of its family. */
const LEAST_TOLERANCE = 30;

type Read = (x: number, y: number) => number;

/** Strands that run about one way. */
export interface Family {
  /** along, across */
  ax: number;
  ay: number;
  steps: number;
  u0: number;
  width: number;
  read: Read;
  /** level its strands have, and how far off it they may be */
  tone: number;
  tolerance: number;
  size: { width: number; height: number };
  /** the same plane in the picture's own size, and how many px of it a px of this one is */
  full: { read: Read; scale: number };
}

export const place = (f: Pick<Family, 'ax' | 'ay' | 'u0'>, step: number, v: number): Point => {
  const u = f.u0 + step * STEP;
  return [f.ax * u - f.ay * v, f.ay * u + f.ax * v];
};

export const inside = ({ size }: Family, [x, y]: Point) => x >= 0 && y >= 0 && x < size.width && y < size.height;

/** How much a strand of the family's width stands out at a place from both its sides, levels; the sign does not matter. */
export function response(f: Pick<Family, 'ax' | 'ay' | 'u0' | 'width' | 'read'>, step: number, v: number): number {
  const half = Math.max(0.5, f.width / 2 - 0.5);
  const far = f.width / 2 + 2.5;
  const at = (t: number) => {
    const [x, y] = place(f, step, v + t);
    return f.read(x, y);
  };
  const middle = (at(-half * 0.6) + at(0) + at(half * 0.6)) / 3;
  const left = (at(-far) + at(-far - 1.5)) / 2;
  const right = (at(far) + at(far + 1.5)) / 2;
  return Math.max(Math.min(left, right) - middle, middle - Math.max(left, right));
}

/** A picture as meshes are looked for in it: at a size, and each channel as a plane only once it is needed. */
interface Seen {
  size: { width: number; height: number };
  /** px of the picture to one of these */
  scale: number;
  channels: Channel[];
  /** any place of a channel, slowly */
  peek(channel: Channel): Read;
  /** any place of a channel, fast, and the same in the picture's own size */
  plane(channel: Channel): { read: Read; full: Read };
}

/** The family that strands belong to: their common direction and the range they may run over. */
export function familyOf(strands: TracedStrand[], seen: Seen): Family {
  const { size, scale } = seen;
  let ax = 0;
  let ay = 0;
  for (const { points } of strands) {
    const [a, b] = [points[0], points[points.length - 1]];
    const sign = (b[0] - a[0]) * ax + (b[1] - a[1]) * ay < 0 ? -1 : 1;
    ax += sign * (b[0] - a[0]);
    ay += sign * (b[1] - a[1]);
  }
  const d = Math.hypot(ax, ay) || 1;
  ax /= d;
  ay /= d;
  const corners: Point[] = [
    [0, 0],
    [size.width, 0],
    [0, size.height],
    [size.width, size.height],
  ];
  const along = corners.map(([x, y]) => x * ax + y * ay);
  const u0 = Math.min(...along);
  const width = usualWidth(strands);
  // Of the channels that one in which the traced strands stand out best: a white fence before a yellow sky does in blue.
  const points = strands.flatMap((s) => s.points);
  const shown = seen.channels.map((channel) => {
    const bare = { ax, ay, u0, width, read: seen.peek(channel) };
    return points.reduce((sum, [x, y]) => {
      const step = (x * ax + y * ay - u0) / STEP;
      return sum + Math.min(ENOUGH, Math.max(0, response(bare, step, y * ax - x * ay)));
    }, 0);
  });
  // Luma is less noisy: another one must be clearly better.
  const best = shown.indexOf(Math.max(...shown));
  const { read, full } = seen.plane(seen.channels[shown[best] > 1.1 * shown[0] ? best : 0]);
  const tones = points.map(([x, y]) => read(x, y));
  const tone = quantile(tones, 0.5);
  const off = quantile(
    tones.map((t) => Math.abs(t - tone)),
    0.5,
  );
  return {
    ax,
    ay,
    u0,
    steps: Math.ceil((Math.max(...along) - u0) / STEP) + 1,
    width,
    read,
    tone,
    tolerance: Math.max(LEAST_TOLERANCE, 4 * off),
    size,
    full: { read: full, scale },
  };
}

export function seenAt(picture: Raster, scale: 1 | 2): Seen {
  const { width, height } = picture;
  const planes = new Map<Channel, { read: Read; full: Read }>();
  const planeOf = (channel: Channel) => {
    const data = channel === 'luma' ? lumaPlane(picture) : channelPlane(picture, channel);
    const full = planeReader(width, height, data);
    if (scale === 1) return { read: full, full };
    const half = halfPlane({ width, height, data });
    // The whole plane is let go: what is measured in it is little.
    return { read: planeReader(half.width, half.height, half.data), full: channelReader(picture, channel) };
  };
  return {
    size: { width: width / scale, height: height / scale },
    scale,
    channels: colourChannels(picture.channels) === 1 ? ['luma'] : ['luma', 0, 1, 2],
    peek(channel) {
      const read = channelReader(picture, channel);
      return (x, y) => read(x * scale, y * scale);
    },
    plane(channel) {
      const plane = planes.get(channel) ?? planeOf(channel);
      planes.set(channel, plane);
      return plane;
    },
  };
}

/** Groups strands by direction: those within 25° of each other. */
export function byDirection(strands: TracedStrand[]): TracedStrand[][] {
  const groups: Array<{ angle: number; list: TracedStrand[] }> = [];
  for (const strand of strands) {
    const { points } = strand;
    const [a, b] = [points[0], points[points.length - 1]];
    const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
    const near = groups.find((g) => Math.abs(Math.sin(g.angle - angle)) < Math.sin((25 * Math.PI) / 180));
    if (near) near.list.push(strand);
    else groups.push({ angle, list: [strand] });
  }
  return groups.map((g) => g.list);
}
