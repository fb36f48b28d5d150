import type { Point, Shape } from '../../../core/mask/shapes.ts';
import { isEmpty } from '../../../core/raster/raster.ts';
import type { DonorAdvice } from '../../../core/repair/hand/donor-search.ts';
import { theme } from '../../theme.ts';
import { clearedContext, COLOURS, drawCross, drawHatched, inPicture, outlined } from '../../viewer/drawing.ts';
import type { ViewerHandle } from '../../viewer/usePictureViewer.ts';
import { handlesOf, seenAt, type Floating } from './floating.ts';
import { measure } from './measure.ts';
import type { Drag, Sheet } from './pointer/drag.ts';
import { knobAt, ringOf } from './ring.ts';
import { handSpec } from './settings.ts';
import type { Hand } from './useHand.ts';
import { donorAt } from './warnings.ts';

/** What is drawn over the picture with the verbs of the hand. */
export interface HandScene extends Pick<Sheet, 'hand' | 'handle' | 'area' | 'donors'> {
  canvas: HTMLCanvasElement;
  scratch: HTMLCanvasElement;
  drag: Drag | null;
  /** where the pointer is on the picture */
  pointer: Point | null;
  markers: boolean;
  /** nothing is drawn but the brush */
  bare: boolean;
  keyboardCursor: boolean;
  /** the key that sets a donor is held */
  donorHeld: boolean;
}

/** Draws lines and rings at places of the picture. */
class Pen {
  constructor(
    readonly ctx: CanvasRenderingContext2D,
    private readonly handle: ViewerHandle,
    readonly scale = handle.scale(),
  ) {}

  line(path: () => void, colour: string, wide = 1.3): void {
    outlined(this.ctx, path, colour, wide);
  }

  ring([x, y]: Point, radius: number, colour: string): void {
    const [sx, sy] = this.handle.toScreen(x, y);
    this.line(() => this.ctx.arc(sx, sy, Math.max(4, radius * this.scale), 0, 7), colour);
  }

  thread(a: Point, b: Point, colour: string): void {
    this.path([a, b], colour, false, 0.8);
  }

  path(points: Point[], colour: string, closed = true, wide?: number): void {
    this.line(
      () => {
        points.forEach((q, i) => {
          const [x, y] = this.handle.toScreen(...q);
          if (i) this.ctx.lineTo(x, y);
          else this.ctx.moveTo(x, y);
        });
        if (closed) this.ctx.closePath();
      },
      colour,
      wide,
    );
  }

  knob(at: Point, radius: number, turn: number): void {
    const [x, y] = this.handle.toScreen(...knobAt(at, radius, turn, this.scale));
    this.ctx.fillStyle = theme.accent;
    this.line(() => this.ctx.arc(x, y, 5, 0, 7), COLOURS.donor);
    this.ctx.fill();
  }

  /** A number in a ring. */
  number(n: number, at: Point): void {
    const { ctx } = this;
    const [x, y] = this.handle.toScreen(...at);
    ctx.font = '600 13px "Red Hat Mono Variable", monospace';
    ctx.textAlign = 'center';
    ctx.textBaseline = 'middle';
    ctx.lineWidth = 3;
    ctx.strokeStyle = '#fff';
    ctx.strokeText(String(n), x, y);
    ctx.fillStyle = theme.accentDark;
    ctx.fillText(String(n), x, y);
  }

  cross(at: Point): void {
    drawCross(this.ctx, ...this.handle.toScreen(...at), 6, COLOURS.donor);
  }

  handleAt(at: Point): void {
    const [x, y] = this.handle.toScreen(...at);
    this.line(() => this.ctx.rect(x - 4, y - 4, 8, 8), COLOURS.donor);
  }
}

/** The pixels that are shown until the server has laid them on, and what is just being drawn. */
function drawMaking({ hand, handle, scratch, drag }: HandScene, ctx: CanvasRenderingContext2D, ratio: number): void {
  const placing = { map: handle.map(), scale: handle.scale(), ratio };
  const { sheet } = hand.preview;
  if (!isEmpty(sheet.box)) {
    ctx.imageSmoothingEnabled = placing.scale < 1.5;
    const { x, y, width, height } = sheet.box;
    inPicture(ctx, placing);
    ctx.drawImage(sheet.canvas, x, y, width, height);
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
  }
  measure(hand.preview.seen(), sheet);
  const shapes: Shape[] = [];
  const live = hand.live.current;
  if (hand.mode === 'reveal' && live)
    shapes.push({ op: 'add', kind: 'brush', points: live.map(([x, y]): Point => [x, y]), size: hand.size });
  if (drag?.outline) shapes.push({ op: 'add', kind: 'outline', points: drag.outline });
  if (!shapes.length) return;
  drawHatched(ctx, scratch, [{ shapes, margin: 0, colour: COLOURS.draft }], placing);
  ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
}

/** The three proposed donors, numbered; the donor of the chosen repair; and the one that the brush takes from. */
function drawDonors(pen: Pen, { hand, area, donors, drag }: HandScene, p: Point | null): void {
  const { size, from } = hand;
  const live = hand.live.current;
  if (!live) {
    donors.forEach((d: DonorAdvice, i: number) => {
      pen.ring(d.at, size / 2, theme.accent);
      pen.number(i + 1, d.at);
    });
    const spec = drag?.draft ?? handSpec(hand.repair);
    const own = ringOf(spec, area);
    if (own) {
      pen.thread(own.cover, own.donor, COLOURS.donor);
      pen.ring(own.donor, own.radius, COLOURS.donor);
      if (spec && 'donor' in spec && spec.donor) pen.knob(own.donor, own.radius, spec.donor.turn);
    }
  }
  if (!from) return;
  const last = live?.at(-1);
  const brush: Point | null = last ? [last[0], last[1]] : p;
  const donor = brush && hand.donorFor(live ? [live[0][0], live[0][1]] : brush);
  const there = donor && brush ? donorAt(donor, brush) : from;
  if (brush && donor) pen.thread(brush, there, COLOURS.donor);
  pen.ring(there, size / 2, COLOURS.donor);
}

/** Where something was outlined, and where it is now. */
function drawFloating(pen: Pen, floating: Floating, bending: boolean): void {
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
      pen.path(
        points.map((q) => place(...q)),
        colour,
      );
    }
  };
  rim((x, y) => [x, y], theme.ink);
  rim((x, y) => seenAt(floating, x, y), COLOURS.donor);
  pen.thread(floating.middle, floating.at, COLOURS.donor);
  if (bending) for (const q of handlesOf(floating)) pen.handleAt(q);
  else pen.knob(floating.at, 0, floating.pose.turn);
}

/** Whether a verb paints with a brush, as it is set. */
export const isBrushed = ({ mode, settings }: Pick<Hand, 'mode' | 'settings'>): boolean =>
  mode === 'copy' || mode === 'blend' || mode === 'shade' || (mode === 'reveal' && settings.revealOp !== 'original');

/** Draws all of it anew. */
export function drawHand(scene: HandScene): void {
  const { hand, handle, canvas, markers, keyboardCursor, donorHeld } = scene;
  const { mode, size, floating } = hand;
  const { ctx, ratio } = clearedContext(canvas);
  drawMaking(scene, ctx, ratio);
  if (!markers) return;
  const pen = new Pen(ctx, handle);
  const [x, y] = [canvas.clientWidth / 2, canvas.clientHeight / 2];
  const p = scene.pointer ?? (keyboardCursor ? handle.toImage(x, y) : null);
  if (!scene.bare && (mode === 'copy' || mode === 'blend')) drawDonors(pen, scene, p);
  const donor = donorHeld || hand.armed;
  if (p && donor) {
    pen.ring(p, size / 2, COLOURS.donor);
    pen.cross(p);
  } else if (p && isBrushed(hand)) pen.ring(p, size / 2, theme.ink);
  if (floating && !scene.bare) drawFloating(pen, floating, hand.bending);
  if (keyboardCursor) drawCross(ctx, x, y);
}
