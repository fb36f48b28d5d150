import type { Point, Shape } from '../../core/mask/shapes.ts';

/** What shapes are drawn with. */
export type ShapeTool = 'brush' | 'outline' | 'corners' | 'box' | 'strand';

/** Points without those that lie as good as on the one before. */
export function dedupe(points: Point[]): Point[] {
  return points.filter((p, i) => i === 0 || Math.hypot(p[0] - points[i - 1][0], p[1] - points[i - 1][1]) > 0.5);
}

/** A shape from the points drawn so far. */
export function draftShape(tool: ShapeTool | null, points: Point[] | null, size: number): Shape | null {
  if (!tool || !points?.length) return null;
  if (tool === 'box') {
    const [a, b] = [points[0], points[points.length - 1]];
    return {
      op: 'add',
      kind: 'box',
      x: Math.min(a[0], b[0]),
      y: Math.min(a[1], b[1]),
      width: Math.abs(a[0] - b[0]),
      height: Math.abs(a[1] - b[1]),
    };
  }
  if (tool === 'outline' || tool === 'corners') return { op: 'add', kind: 'outline', points };
  return { op: 'add', kind: tool === 'strand' ? 'strand' : 'brush', points, size };
}

/** px² within an outline. Source: the shoelace formula. */
const areaOf = (points: readonly Point[]): number =>
  Math.abs(
    points.reduce((sum, [x, y], i) => {
      const [u, v] = points[(i + 1) % points.length];
      return sum + x * v - u * y;
    }, 0),
  ) / 2;

/** Whether a shape covers anything: a click without a drag is no outline and no box. */
export function worth(shape: Shape): boolean {
  if (shape.kind === 'box') return shape.width > 0.5 && shape.height > 0.5;
  if (shape.kind === 'outline') return shape.points.length > 2 && areaOf(shape.points) > 1;
  return shape.kind === 'brush' || shape.points.length > 1;
}
