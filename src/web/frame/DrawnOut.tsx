import type { PictureState } from '../../contract/api.ts';
import { boxOf, contains, intersect, type Box } from '../../core/raster/raster.ts';
import { canvasOfState } from '../lib/canvas.ts';
import type { Way } from './ways.ts';

/** A gap, and whether it is being filled. */
interface Gap extends Box {
  isMade: boolean;
}

/** Gaps that are not filled yet. */
export function gapsOf({ document, statuses }: PictureState): Gap[] {
  const shown = new Set(statuses.filter((s) => s.state === 'shown').map((s) => s.id));
  const filled = new Set(document.repairs.filter((r) => shown.has(r.id)).flatMap((r) => r.faultIds));
  return document.faults
    .filter((f) => f.kind === 'gap' && !filled.has(f.id))
    .flatMap((f) =>
      f.shapes.flatMap((s) =>
        s.kind === 'box'
          ? [
              {
                x: s.x,
                y: s.y,
                width: s.width,
                height: s.height,
                isMade: document.repairs.some((r) => r.faultIds.includes(f.id)),
              },
            ]
          : [],
      ),
    );
}

/** Whether a way is still to be drawn out: it is taken for a view of that until it is rendered. Turned ones are shown as they are. */
export const isDrawnOut = (state: PictureState, { way, seen }: Way, degrees: number): boolean =>
  way === 'stretch' && !degrees && (gapsOf(state).length > 0 || !contains(canvasOfState(state), seen));

/** Parts of a picture, and where each comes to lie when its background is drawn out: roughly, evenly on each side. */
function piecesOf(from: Box, onto: Box, guard: Box | null): Array<{ part: Box; at: Box }> {
  const kept = guard ? intersect(guard, from) : from;
  const spans = (start: number, length: number, to: number, toLength: number, inner: number, innerLength: number) =>
    guard
      ? [
          { part: [start, inner - start], at: [to, inner - to] },
          { part: [inner, innerLength], at: [inner, innerLength] },
          {
            part: [inner + innerLength, start + length - inner - innerLength],
            at: [inner + innerLength, to + toLength - inner - innerLength],
          },
        ].filter((s) => s.part[1] > 0 && s.at[1] > 0)
      : [{ part: [start, length], at: [to, toLength] }];
  const across = spans(from.x, from.width, onto.x, onto.width, kept.x, kept.width);
  const down = spans(from.y, from.height, onto.y, onto.height, kept.y, kept.height);
  const box = ([x, width]: number[], [y, height]: number[]): Box => ({ x, y, width, height });
  return down.flatMap((v) => across.map((u) => ({ part: box(u.part, v.part), at: box(u.at, v.at) })));
}

/** A rough view of a picture whose background is drawn out, at once: what is rendered then spares what shows much. */
export function DrawnOut(props: { state: PictureState; href: string; onto: Box; guard: Box | null }) {
  const { state, href, onto, guard } = props;
  const canvas = canvasOfState(state);
  const pieces = piecesOf(intersect(boxOf(state.picture.facts), onto), onto, guard);
  return (
    <>
      {/* So that no hairline of the ground shows where pieces meet. */}
      <image href={href} {...onto} preserveAspectRatio="none" />
      {pieces.map(({ part, at }) => (
        <svg
          key={`${part.x} ${part.y}`}
          {...at}
          viewBox={`${part.x} ${part.y} ${part.width} ${part.height}`}
          preserveAspectRatio="none"
        >
          <image href={href} {...canvas} preserveAspectRatio="none" />
        </svg>
      ))}
    </>
  );
}
