import type { Change, Fault, PictureDocument } from '../../contract/document.ts';
import { Refused } from '../../contract/refused.ts';
import type { StepSpec } from '../../core/chain/registry.ts';
import { boxShape } from '../../core/mask/shapes.ts';
import { around, boxOf, contains, type Box } from '../../core/raster/raster.ts';
import { canvasOf } from '../canvas.ts';
import { newFault } from './faults.ts';
import { added, changed, isOwnGap, removed, type Plan, type Size } from './parts.ts';
import { checkStep } from './steps.ts';
import { stretchesOf } from './stretch.ts';

const isSame = (a: Box, b: Box) => contains(a, b) && contains(b, a);

/** Gaps that a canvas added and that are not treated: they go by it. Those within the source are its own, as between frames joined. */
function openGaps({ faults, repairs }: PictureDocument, source: Size): Fault[] {
  const treated = new Set(repairs.flatMap((r) => r.faultIds));
  return faults.filter((f) => f.kind === 'gap' && f.state === 'open' && !treated.has(f.id) && !isOwnGap(f, source));
}

/** Where there are pixels, or will be: the source, and each box of gaps that are filled. */
function known({ faults, repairs }: PictureDocument, source: Size): Box[] {
  const treated = new Set(repairs.flatMap((r) => r.faultIds));
  const gaps = faults.filter((f) => f.kind === 'gap' && treated.has(f.id));
  const boxes = gaps.flatMap((f) => f.shapes.flatMap((s) => (s.kind === 'box' && s.op === 'add' ? [s] : [])));
  return [boxOf(source), ...boxes];
}

/** Sets a step, or takes it out where there is nothing to set. */
function stepChange(
  document: PictureDocument,
  kind: StepSpec['step'],
  spec: StepSpec | null,
  name: () => string,
): Change[] {
  const old = document.steps.find((s) => s.spec.step === kind);
  if (!spec) return old ? [removed('step', old)] : [];
  if (old) return JSON.stringify(old.spec) === JSON.stringify(spec) ? [] : [changed('step', old, { ...old, spec })];
  const order = document.steps.reduce((n, s) => Math.max(n, s.order), 0) + (kind === 'turn' ? 2 : 1);
  return [added('step', { id: name(), order, spec })];
}

/**
 * Frames a picture anew: its canvas, and how it is turned and cut when it leaves. What the canvas adds becomes a gap to be filled; gaps
 * that were marked before and are not filled go by the new canvas. No repair is lost, whatever is cut, but a stretch: it was made for
 * one canvas.
 */
export const reframe: Plan<'reframe'> = (document, edit, { source, area, name }) => {
  const canvas = edit.canvas ?? boxOf(source);
  const canvasSpec = isSame(canvas, boxOf(source)) ? null : ({ step: 'canvas', box: canvas } as const);
  const turnSpec =
    edit.turn && (edit.turn.degrees !== 0 || edit.turn.crop) ? { step: 'turn' as const, ...edit.turn } : null;
  if (canvasSpec) checkStep(canvasSpec, source, area);
  if (turnSpec) checkStep(turnSpec, source, canvas);
  const changes = [
    ...stepChange(document, 'canvas', canvasSpec, name),
    ...stepChange(document, 'turn', turnSpec, name),
    ...openGaps(document, source).map((f) => removed('fault', f)),
    ...(isSame(canvas, canvasOf(document, source))
      ? []
      : stretchesOf(document).map(([kind, row]) => removed(kind, row))),
  ];
  const gone = new Set(changes.flatMap((c) => (c.after ? [] : [c.id])));
  const stays = ({ id }: { id: string }) => !gone.has(id);
  const left = { ...document, faults: document.faults.filter(stays), repairs: document.repairs.filter(stays) };
  const strips = known(left, source).reduce((parts, box) => parts.flatMap((part) => around(part, box)), [canvas]);
  if (strips.length) {
    const fault = newFault(
      left,
      strips.map((box) => boxShape(box)),
      'gap',
      canvas,
      undefined,
      undefined,
      name(),
    );
    // Not a pixel beside it is touched: what is there is the picture's own.
    changes.push(added('fault', { ...fault, margin: 0, feather: 0 }));
  }
  if (!changes.length) throw new Refused('The picture is framed like this already.', 409);
  const seen = turnSpec?.crop ?? canvas;
  return { label: `Frame at ${seen.width} × ${seen.height}`, changes };
};
