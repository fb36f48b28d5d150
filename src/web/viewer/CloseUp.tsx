import type { Box } from '../../core/raster/raster.ts';
import { useCallback, useEffect, useRef, type PointerEvent as ReactPointerEvent, type ReactNode } from 'react';
import styled from 'styled-components';
import type { PictureState } from '../../contract/api.ts';
import type { Point, Shape } from '../../core/mask/shapes.ts';
import { canvasOfState } from '../lib/canvas.ts';
import { theme } from '../theme.ts';
import {
  clearedContext,
  COLOURS,
  drawCross,
  drawAllHatched,
  drawHatched,
  inPicture,
  outlined,
  type Hatched,
} from './drawing.ts';
import { Divider } from './Divider.tsx';
import { dedupe, draftShape, worth, type ShapeTool } from './draft-shape.ts';
import { useGestures } from './useGestures.ts';
import { usePictureViewer, type Compare, type ViewerHandle } from './usePictureViewer.ts';

/** A rendering shown in place, before it is chosen. */
export interface Preview {
  url: string;
  box: Box;
}

const Frame = styled.div<{ $surround: string }>`
  position: relative;
  overflow: hidden;
  background: ${({ $surround }) => $surround};
  min-width: 0;
  min-height: 0;
  touch-action: none;
  .osd {
    position: absolute;
    inset: 0;
  }
  .osd canvas {
    outline: none;
  }
  > canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
`;

/** What of the picture is seen: a box before it is turned about its middle, and how. */
export type View = Box & { scale: number; angle: number };

interface Props {
  state: PictureState;
  surround: string;
  compare: Compare;
  /** the layer that is shown alone */
  only: string | null;
  divider: number;
  onDivider(at: number): void;
  markers: boolean;
  hatched: Hatched[];
  preview: Preview | null;
  /** null: moving about; otherwise what is being drawn */
  tool: ShapeTool | null;
  size: number;
  onShape(shape: Shape): void;
  onPick(at: Point): void;
  onHandle(handle: ViewerHandle | null): void;
  onView(view: View): void;
  /** points set so far by clicks or keys */
  draft: Point[];
  setDraft(points: Point[]): void;
  keyboardCursor: boolean;
  /** a strand ends at its second point; with Shift more are set */
  twoPoints: boolean;
  /** what lies above the picture and takes the pointer, such as the tools of the hand */
  children?: ReactNode;
}

/** Events of the viewer after which everything is drawn anew. */
export const FOLLOWED = ['animation', 'resize', 'open', 'update-viewport', 'rotate'] as const;

/** Corners that are set, and the one under the pointer; null where nothing is begun. */
function drawnSoFar(corners: Point[], pointer: Point | null): Point[] | null {
  if (!corners.length) return null;
  return pointer ? [...corners, pointer] : corners;
}

/** The close-up: the picture at working size, with its markers, where shapes are drawn. */
export function CloseUp(props: Props) {
  const { state, tool, size, draft, setDraft, onShape, markers, hatched, preview, compare, divider } = props;
  const host = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const scratch = useRef<HTMLCanvasElement | null>(null);
  const pointer = useRef<Point | null>(null);
  const stroke = useRef<Point[] | null>(null);
  const image = useRef<{ url: string; element: HTMLImageElement } | null>(null);
  const handle = usePictureViewer(host, state, { compare, divider, only: props.only });
  const { onHandle, onView, keyboardCursor } = props;
  useEffect(() => onHandle(handle), [handle, onHandle]);

  const frame = useRef(0);
  const draw = useCallback(() => {
    cancelAnimationFrame(frame.current);
    frame.current = requestAnimationFrame(() => {
      const c = canvas.current;
      if (!c || !handle) return;
      const { ctx, ratio } = clearedContext(c);
      scratch.current ??= document.createElement('canvas');
      const scale = handle.scale();
      const placing = { map: handle.map(), scale, ratio };
      if (preview && image.current?.url === preview.url && image.current.element.complete) {
        ctx.imageSmoothingEnabled = scale < 1.5;
        const { x, y, width, height } = preview.box;
        inPicture(ctx, placing);
        ctx.drawImage(image.current.element, x, y, width, height);
      }
      // Nothing of a cover is shown beyond the picture, where it has no effect.
      ctx.save();
      inPicture(ctx, placing);
      ctx.beginPath();
      const sheet = canvasOfState(state);
      ctx.rect(sheet.x, sheet.y, sheet.width, sheet.height);
      ctx.clip();
      if (markers && !preview) drawAllHatched(ctx, scratch.current, hatched, placing);
      const pending = draftShape(tool, stroke.current ?? drawnSoFar(draft, pointer.current), size);
      if (pending)
        drawHatched(ctx, scratch.current, [{ shapes: [pending], margin: 0, colour: COLOURS.draft }], placing);
      ctx.restore();
      ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
      const middle: Point | null = keyboardCursor ? [c.clientWidth / 2, c.clientHeight / 2] : null;
      const at = pointer.current ? handle.toScreen(...pointer.current) : middle;
      if (at && (tool === 'brush' || tool === 'strand'))
        outlined(ctx, () => ctx.arc(...at, Math.max(2, (size * scale) / 2), 0, 7), theme.ink);
      if (middle && tool) drawCross(ctx, ...middle);
      const container = handle.viewer.viewport.getContainerSize();
      const [cx, cy] = handle.toImage(container.x / 2, container.y / 2);
      const [width, height] = [container.x / scale, container.y / scale];
      onView({ x: cx - width / 2, y: cy - height / 2, width, height, scale, angle: handle.angle() });
    });
  }, [handle, state, hatched, markers, preview, tool, size, draft, keyboardCursor, onView]);

  useEffect(() => {
    if (!preview) {
      image.current = null;
      return draw();
    }
    const element = new Image();
    image.current = { url: preview.url, element };
    element.onload = draw;
    element.src = preview.url;
  }, [preview, draw]);
  useEffect(() => {
    draw();
    if (!handle) return;
    const { viewer } = handle;
    for (const name of FOLLOWED) viewer.addHandler(name, draw);
    return () => {
      for (const name of FOLLOWED) viewer.removeHandler(name, draw);
    };
  }, [handle, draw]);

  const at = (e: { clientX: number; clientY: number }): Point => {
    const box = canvas.current!.getBoundingClientRect();
    return handle!.toImage(e.clientX - box.left, e.clientY - box.top);
  };
  const gestures = useGestures(canvas, handle);
  const down = (e: ReactPointerEvent) => {
    if (!handle || !tool) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    if (gestures.touch(e)) {
      stroke.current = null;
      return draw();
    }
    if (e.button === 1 || e.button === 2) return gestures.startPan(e);
    const p = at(e);
    if (tool === 'corners' || tool === 'strand') {
      const next = [...draft, p];
      if (props.twoPoints && next.length > 1 && !e.shiftKey) {
        setDraft([]);
        onShape({ op: 'add', kind: 'strand', points: next, size });
      } else setDraft(next);
    } else stroke.current = tool === 'box' ? [p, p] : [p];
    draw();
  };
  const move = (e: ReactPointerEvent) => {
    if (!handle || !tool || gestures.move(e)) return;
    pointer.current = at(e);
    if (stroke.current) {
      if (tool === 'box') stroke.current = [stroke.current[0], pointer.current];
      else {
        for (const c of e.nativeEvent.getCoalescedEvents?.() ?? [e]) {
          const p = at(c);
          const last = stroke.current[stroke.current.length - 1];
          if (Math.hypot(p[0] - last[0], p[1] - last[1]) * handle.scale() > 1.5) stroke.current.push(p);
        }
      }
    }
    draw();
  };
  const up = (e: ReactPointerEvent) => {
    gestures.end(e);
    if (!stroke.current) return;
    const shape = draftShape(tool, stroke.current, size);
    stroke.current = null;
    if (shape && worth(shape)) onShape(shape);
    draw();
  };
  const finish = () => {
    const shape = draftShape(tool, dedupe(draft), size);
    setDraft([]);
    if (shape && worth(shape)) onShape(shape);
  };
  const press = useRef<{ x: number; y: number } | null>(null);
  return (
    <Frame
      $surround={props.surround}
      data-testid="close-up"
      onPointerDown={(e) => (press.current = { x: e.clientX, y: e.clientY })}
      onPointerUp={(e) => {
        const p = press.current;
        if (
          !tool &&
          handle &&
          p &&
          Math.hypot(e.clientX - p.x, e.clientY - p.y) < 4 &&
          !(e.target as HTMLElement).closest('.divider')
        )
          props.onPick(at(e));
      }}
    >
      <div ref={host} className="osd" />
      <canvas
        ref={canvas}
        aria-hidden
        style={{ pointerEvents: tool ? 'auto' : 'none', cursor: tool ? 'crosshair' : 'grab' }}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
        onPointerLeave={() => {
          pointer.current = null;
          draw();
        }}
        onContextMenu={(e) => e.preventDefault()}
        onDoubleClick={finish}
        onWheel={gestures.wheel}
      />
      {props.children}
      {compare === 'divider' && <Divider at={divider} onMove={props.onDivider} />}
    </Frame>
  );
}
