import { useCallback, useEffect, useRef, type PointerEvent as ReactPointerEvent } from 'react';
import type { PictureState } from '../../../contract/api.ts';
import type { HandSpec } from '../../../contract/document.ts';
import type { DonorAdvice } from '../../../core/repair/hand/donor-search.ts';
import type { Point, Shape } from '../../../core/mask/shapes.ts';
import { strokesWithin, type StrokePoint } from '../../../core/mask/strokes.ts';
import { isEmpty, type Box } from '../../../core/raster/raster.ts';
import type { Donor } from '../../../core/repair/hand/donor.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import { theme } from '../../theme.ts';
import { FOLLOWED } from '../../viewer/CloseUp.tsx';
import { clearedContext, COLOURS, drawCross, drawHatched, inPicture, outlined } from '../../viewer/drawing.ts';
import { useGestures } from '../../viewer/useGestures.ts';
import type { ViewerHandle } from '../../viewer/usePictureViewer.ts';
import { bent, handlesOf, seenAt, turnedBy } from './floating.ts';
import { handSpec, type Hand } from './useHand.ts';
import type { Sheet } from './usePreview.ts';
import { donorAt } from './warnings.ts';

/** px on the screen within which a handle is taken. */
const NEAR = 11;
/** px on the screen from the middle to the knob beyond the ring. */
const KNOB = 26;

type Drag =
  | { what: 'stroke' }
  | { what: 'outline'; points: Point[] }
  | { what: 'move'; last: Point }
  | { what: 'knob'; last: Point }
  | { what: 'bend'; handle: number; last: Point }
  | RingDrag;

interface RingDrag {
  what: 'ring' | 'ring knob';
  last: Point;
  spec: HandSpec;
}

/** The donor of a placed repair, where it is seen: the middle of what it covers and of what it takes. */
function ringOf(spec: HandSpec | null, area: Box) {
  if (!spec || !('donor' in spec) || !spec.donor || !('strokes' in spec)) return null;
  const box = strokesWithin(spec.strokes, area);
  if (isEmpty(box)) return null;
  const cover: Point = [box.x + box.width / 2, box.y + box.height / 2];
  const first = spec.strokes[0].points[0];
  const donor: Donor = spec.donor.travels ? spec.donor : { ...spec.donor, at: [first[0], first[1]] };
  return { cover, donor: donorAt(donor, cover), radius: spec.strokes[0].size / 2 };
}

/** Where the knob of a ring lies on the picture: a way beyond it, to where its donor's top points. */
function knobAt([x, y]: Point, radius: number, turn: number, scale: number): Point {
  const far = (Math.max(4, radius * scale) + KNOB) / scale;
  const r = (turn * Math.PI) / 180 - Math.PI / 2;
  return [x + far * Math.cos(r), y + far * Math.sin(r)];
}

/** Tells a bench that listens how long after each move of the pointer its frame was painted, ms, and what is shown. */
function measure(moved: number[], sheet: Sheet): void {
  const list = (window as unknown as { tersumStroke?: number[] & { sheet?: Sheet } }).tersumStroke;
  if (!list || !moved.length) return;
  list.sheet = sheet;
  const { port1, port2 } = new MessageChannel();
  // A message posted from an animation frame arrives once that frame has been handed on.
  port1.onmessage = () => {
    const now = performance.now();
    list.push(...moved.map((at) => now - at));
    port1.close();
  };
  port2.postMessage(null);
}

/** A canvas above the close-up on which is painted, outlined, lifted and dragged with the verbs of the hand. */
export function HandLayer({
  state,
  handle,
  hand,
  donors,
  markers,
  keyboardCursor,
  donorHeld,
  donorClicked,
  pointerAt,
}: {
  state: PictureState;
  handle: ViewerHandle | null;
  hand: Hand;
  donors: DonorAdvice[];
  markers: boolean;
  keyboardCursor: boolean;
  /** the key that sets a donor is held */
  donorHeld: boolean;
  /** set when a donor was clicked while the key was held */
  donorClicked: { current: boolean };
  /** where the pointer is, for keys */
  pointerAt: { current: Point | null };
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scratch = useRef<HTMLCanvasElement | null>(null);
  const pointer = useRef<Point | null>(null);
  const drag = useRef<Drag | null>(null);
  const draft = useRef<HandSpec | null>(null);
  const gestures = useGestures(canvas, handle);
  const { mode, settings, size, floating, onShown } = hand;
  const area = canvasOfState(state);
  const original = mode === 'reveal' && settings.revealOp === 'original';
  const brushed = mode === 'copy' || mode === 'blend' || mode === 'shade' || (mode === 'reveal' && !original);
  const placed = mode === 'copy' || mode === 'blend' ? handSpec(hand.repair) : null;

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
      const { sheet } = hand.preview;
      if (!isEmpty(sheet.box)) {
        ctx.imageSmoothingEnabled = scale < 1.5;
        const { x, y, width: wide, height: high } = sheet.box;
        inPicture(ctx, placing);
        ctx.drawImage(sheet.canvas, x, y, wide, high);
        ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
      }
      measure(hand.preview.seen(), sheet);
      if (mode === 'reveal' && hand.live.current) {
        const shape: Shape = {
          op: 'add',
          kind: 'brush',
          points: hand.live.current.map(([px, py]): Point => [px, py]),
          size,
        };
        drawHatched(ctx, scratch.current, [{ shapes: [shape], margin: 0, colour: COLOURS.draft }], placing);
        ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
      }
      if (drag.current?.what === 'outline') {
        const shape: Shape = { op: 'add', kind: 'outline', points: drag.current.points };
        drawHatched(ctx, scratch.current, [{ shapes: [shape], margin: 0, colour: COLOURS.draft }], placing);
        ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
      }
      if (!markers) return;
      const line = (path: () => void, colour: string, wide = 1.3) => outlined(ctx, path, colour, wide);
      const ring = ([x, y]: Point, radius: number, colour: string) => {
        const [sx, sy] = handle.toScreen(x, y);
        line(() => ctx.arc(sx, sy, Math.max(4, radius * scale), 0, 7), colour);
      };
      const thread = (a: Point, b: Point, colour: string) => {
        const [ax, ay] = handle.toScreen(...a);
        const [bx, by] = handle.toScreen(...b);
        line(
          () => {
            ctx.moveTo(ax, ay);
            ctx.lineTo(bx, by);
          },
          colour,
          0.8,
        );
      };
      const knob = ([x, y]: Point, radius: number, turn: number) => {
        const [kx, ky] = handle.toScreen(...knobAt([x, y], radius, turn, scale));
        ctx.fillStyle = theme.accent;
        line(() => ctx.arc(kx, ky, 5, 0, 7), COLOURS.donor);
        ctx.fill();
      };

      // The three proposed donors, numbered.
      if ((mode === 'copy' || mode === 'blend') && !hand.live.current) {
        donors.forEach((d, i) => {
          ring(d.at, size / 2, theme.accent);
          const [x, y] = handle.toScreen(...d.at);
          ctx.font = '600 13px "Red Hat Mono Variable", monospace';
          ctx.textAlign = 'center';
          ctx.textBaseline = 'middle';
          ctx.lineWidth = 3;
          ctx.strokeStyle = '#fff';
          ctx.strokeText(String(i + 1), x, y);
          ctx.fillStyle = theme.accentDark;
          ctx.fillText(String(i + 1), x, y);
        });
      }
      const spec = draft.current ?? placed;
      const own = ringOf(spec, area);
      if (own && !hand.live.current) {
        thread(own.cover, own.donor, COLOURS.donor);
        ring(own.donor, own.radius, COLOURS.donor);
        if (spec && 'donor' in spec && spec.donor) knob(own.donor, own.radius, spec.donor.turn);
      }
      const p = pointer.current ?? (keyboardCursor ? handle.toImage(c.clientWidth / 2, c.clientHeight / 2) : null);
      if ((mode === 'copy' || mode === 'blend') && hand.from) {
        const live = hand.live.current?.at(-1);
        const brush: Point | null = live ? [live[0], live[1]] : p;
        const donor =
          brush && hand.donorFor(hand.live.current ? [hand.live.current[0][0], hand.live.current[0][1]] : brush);
        const there = donor && brush ? donorAt(donor, brush) : hand.from;
        if (brush && donor) thread(brush, there, COLOURS.donor);
        ring(there, size / 2, COLOURS.donor);
      }
      if (brushed && p && !donorHeld && !hand.armed) ring(p, size / 2, theme.ink);
      if ((donorHeld || hand.armed) && p) {
        ring(p, size / 2, COLOURS.donor);
        drawCross(ctx, ...handle.toScreen(...p), 6, COLOURS.donor);
      }
      if (floating) {
        // Where it was outlined, and where it is now.
        const rim = (place: (x: number, y: number) => Point, colour: string) => {
          for (const shape of floating.shapes) {
            if (shape.op !== 'add') continue;
            const points: Point[] =
              shape.kind === 'box'
                ? [
                    [shape.x, shape.y],
                    [shape.x + shape.width, shape.y],
                    [shape.x + shape.width, shape.y + shape.height],
                    [shape.x, shape.y + shape.height],
                  ]
                : shape.points;
            line(() => {
              points.forEach((q, i) => {
                const [x, y] = handle.toScreen(...place(...q));
                if (i) ctx.lineTo(x, y);
                else ctx.moveTo(x, y);
              });
              ctx.closePath();
            }, colour);
          }
        };
        rim((x, y) => [x, y], theme.ink);
        rim((x, y) => seenAt(floating, x, y), COLOURS.donor);
        thread(floating.middle, floating.at, COLOURS.donor);
        if (hand.bending)
          for (const q of handlesOf(floating)) {
            const [x, y] = handle.toScreen(...q);
            line(() => ctx.rect(x - 4, y - 4, 8, 8), COLOURS.donor);
          }
        else knob(floating.at, 0, floating.pose.turn);
      }
      if (keyboardCursor) drawCross(ctx, c.clientWidth / 2, c.clientHeight / 2);
    });
  }, [handle, hand, mode, size, floating, donors, markers, keyboardCursor, donorHeld, placed, brushed, area]);

  useEffect(() => {
    draw();
    onShown.current = draw;
    if (!handle) return;
    const { viewer } = handle;
    for (const name of FOLLOWED) viewer.addHandler(name, draw);
    return () => {
      for (const name of FOLLOWED) viewer.removeHandler(name, draw);
    };
  }, [handle, draw, onShown]);

  const at = (e: { clientX: number; clientY: number }): Point => {
    const box = canvas.current!.getBoundingClientRect();
    return handle!.toImage(e.clientX - box.left, e.clientY - box.top);
  };
  /** Distance on the screen between places of the picture. */
  const apart = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]) * handle!.scale();
  const pressure = (e: { pointerType: string; pressure: number }) => (e.pointerType === 'pen' ? e.pressure : 1);

  const down = (e: ReactPointerEvent) => {
    if (!handle || !mode) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    if (gestures.touch(e)) {
      if (drag.current?.what === 'stroke') hand.dropStroke();
      drag.current = null;
      return draw();
    }
    if (e.button === 1) return gestures.startPan(e);
    const p = at(e);
    const donorMode = mode === 'copy' || mode === 'blend';
    if (donorMode && (e.button === 2 || donorHeld || hand.armed)) {
      donorClicked.current = true;
      return hand.setDonor(p);
    }
    if (e.button === 2) return gestures.startPan(e);
    if (donorMode) {
      const own = ringOf(placed, area);
      if (own && placed && 'donor' in placed && placed.donor) {
        const knob = apart(p, knobAt(own.donor, own.radius, placed.donor.turn, handle.scale())) < NEAR;
        if (knob || apart(p, own.donor) < Math.max(NEAR, own.radius * handle.scale())) {
          drag.current = { what: knob ? 'ring knob' : 'ring', last: p, spec: placed };
          hand.begin(hand.repair!.id);
          return draw();
        }
      }
      const proposed = donors.find((d) => apart(p, d.at) < Math.max(NEAR, (size / 2) * handle.scale()));
      if (proposed && !hand.from) return hand.setDonor(proposed.at);
    }
    if (mode === 'patch' || mode === 'transplant') {
      if (!floating) {
        drag.current = { what: 'outline', points: [p] };
        return draw();
      }
      const bend = hand.bending ? handlesOf(floating).findIndex((q) => apart(p, q) < NEAR) : -1;
      if (bend >= 0) drag.current = { what: 'bend', handle: bend, last: p };
      else if (!hand.bending && apart(p, knobAt(floating.at, 0, floating.pose.turn, handle.scale())) < NEAR)
        drag.current = { what: 'knob', last: p };
      else drag.current = { what: 'move', last: p };
      return draw();
    }
    if (original) {
      drag.current = { what: 'outline', points: [p] };
      return draw();
    }
    if (hand.startStroke(p[0], p[1], pressure(e), e.shiftKey)) drag.current = { what: 'stroke' };
    draw();
  };

  const changed = (d: RingDrag, p: Point): HandSpec => {
    const { spec } = d;
    if (!('donor' in spec) || !spec.donor) return spec;
    const { donor } = spec;
    if (d.what === 'ring')
      return {
        ...spec,
        donor: {
          ...donor,
          from: [Math.round(donor.from[0] + p[0] - d.last[0]), Math.round(donor.from[1] + p[1] - d.last[1])],
        },
      } as HandSpec;
    const own = ringOf(spec, area)!;
    const { turn, scale } = turnedBy(donor, own.donor, d.last, p);
    return { ...spec, donor: { ...donor, turn, scale } } as HandSpec;
  };

  const move = (e: ReactPointerEvent) => {
    if (!handle || !mode || gestures.move(e)) return;
    const p = at(e);
    pointer.current = p;
    pointerAt.current = p;
    const d = drag.current;
    if (!d) {
      if (!donorHeld && !hand.armed) hand.hover(p);
      return draw();
    }
    if (d.what === 'stroke') {
      const fresh: StrokePoint[] = [];
      const events = e.nativeEvent.getCoalescedEvents?.() ?? [];
      for (const c of events.length ? events : [e.nativeEvent]) {
        const q = at(c);
        const last = fresh.at(-1) ?? hand.live.current?.at(-1);
        if (!last || apart(q, [last[0], last[1]]) > 1) fresh.push([q[0], q[1], pressure(c)]);
      }
      hand.preview.moved(e.timeStamp);
      hand.extendStroke(fresh);
    } else if (d.what === 'outline') {
      const last = d.points[d.points.length - 1];
      if (apart(p, last) > 1.5) d.points.push(p);
    } else if (d.what === 'move') {
      hand.changeFloating({
        ...floating!,
        at: [floating!.at[0] + p[0] - d.last[0], floating!.at[1] + p[1] - d.last[1]],
        agreement: undefined,
      });
      d.last = p;
    } else if (d.what === 'knob') {
      hand.changeFloating({
        ...floating!,
        pose: turnedBy(floating!.pose, floating!.at, d.last, p),
        agreement: undefined,
      });
      d.last = p;
    } else if (d.what === 'bend') {
      hand.changeFloating(bent(floating!, d.handle, p[0] - d.last[0], p[1] - d.last[1]));
      d.last = p;
    } else {
      draft.current = changed(d, p);
      hand.preview.render(draft.current, { alone: true });
    }
    draw();
  };

  const up = (e: ReactPointerEvent) => {
    gestures.end(e);
    const d = drag.current;
    drag.current = null;
    if (!d) return;
    if (d.what === 'stroke') hand.endStroke();
    else if (d.what === 'outline') {
      const shapes: Shape[] = [{ op: 'add', kind: 'outline', points: d.points }];
      if (d.points.length > 2) (original ? hand.bringBack : hand.lift)(shapes);
    } else if (d.what === 'ring' || d.what === 'ring knob') {
      const spec = draft.current;
      draft.current = null;
      if (spec) hand.changeSpec(spec);
    }
    draw();
  };

  return (
    <canvas
      ref={canvas}
      aria-hidden
      data-testid="hand"
      style={{
        pointerEvents: mode ? 'auto' : 'none',
        display: mode ? 'block' : 'none',
        cursor: floating && !hand.bending ? 'move' : brushed ? 'none' : 'crosshair',
      }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onPointerLeave={() => {
        pointer.current = null;
        pointerAt.current = null;
        if (!drag.current) hand.hover(null);
        draw();
      }}
      onContextMenu={(e) => e.preventDefault()}
      onWheel={gestures.wheel}
    />
  );
}
