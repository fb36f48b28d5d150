import type { Edit, FillRequest, SingleEdit } from '../../contract/api.ts';
import type { FaultKind, PictureDocument } from '../../contract/document.ts';
import type { Advice } from '../../core/plan/advice.ts';
import type { Box, Raster } from '../../core/raster/raster.ts';
import { planFill, planPortions, refusedByPolicy, refusedStrip, type Policy } from '../../document/edits/fills.ts';
import { withNeighbours } from '../../document/edits/neighbours.ts';
import { planTreatments } from '../../document/edits/treat.ts';
import { Refused } from '../../contract/refused.ts';
import type { Limits } from '../../codec/limits.ts';
import { marksOf } from '../../document/edits/marks.ts';
import { planEdit } from '../../document/edits/plan-edit.ts';
import { defaultsTold } from '../../document/edits/told.ts';
import type { RequestName } from '../store/journal.ts';
import { newId, rowNames } from '../../contract/ids.ts';
import type { RunOptions } from '../work/pool.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';
import type { Renderings } from './renderings.ts';

const ADVISED_AT_ONCE = 100;
/** Edits that a hand makes one after another, as it paints. */
const PAINTS: ReadonlySet<Edit['type']> = new Set(['placeRepair', 'addStrokes', 'changeSpec']);

/** Edits of pictures: each is on disk when it is answered, what it made stale follows in the background. */
export class Editing {
  constructor(
    private readonly pictures: Pictures,
    private readonly renderings: Renderings,
  ) {}

  /**
   * Puts an edit in force, and resolves once it is on disk.
   * @param answer what is answered to whoever asks for the same again
   * @returns that answer, of this or of the first time
   */
  async edit<T = null>(id: string, edit: Edit, request?: RequestName, answer: T = null as T): Promise<T> {
    if (PAINTS.has(edit.type)) this.renderings.painted(id);
    const given = await this.pictures.inTurn(id, (picture) =>
      this.pictures.once(picture, request, async () => {
        const { store, limits } = this.pictures;
        const { document } = picture;
        for (const one of edit.type === 'all' ? edit.edits : [edit]) {
          for (const box of canvasesOf(one)) withinLimits(box, limits);
          refusedByRules(document, one, (await store.rulesOf(id)).policy);
        }
        const advice = await this.advise(picture, edit);
        const habits = advice.length ? await store.habits(id) : {};
        const { label, changes } = planEdit(document, edit, picture.original, advice, habits, rowNames(request?.name));
        await this.pictures.apply(picture, label, changes, request, answer);
        const habit = defaultsTold(document, edit);
        if (habit) await store.remember(id, habit.kind, habit.set);
        return answer;
      }),
    );
    this.renderings.settle(id);
    return given;
  }

  /**
   * Takes the last edit back (`-1`) or the next one forward again (`1`).
   * @param known mark of the state that the window knows which asks
   * @returns its label, null when there is none
   * @throws Refused when another window made an edit that this one has not seen
   */
  async step(id: string, direction: -1 | 1, request?: RequestName, known?: string): Promise<string | null> {
    const label = await this.pictures.inTurn(id, (picture) =>
      this.pictures.once(picture, request, () => {
        if (known !== undefined && !picture.lastEdit.isKnownTo(request?.window, known, picture.changes.epoch))
          throw unseen(picture);
        return this.pictures.step(picture, direction, request);
      }),
    );
    this.renderings.settle(id);
    return label;
  }

  /** Starts a fill. The repair is in the document, on disk, before anything is rendered; its three tries follow. */
  async fill(
    id: string,
    fill: FillRequest,
    request?: RequestName,
    late: RunOptions['late'] = false,
  ): Promise<{ repairId: string; taskId: string }> {
    if (fill.portions > 1 && !fill.repairId) {
      const { repairIds, taskId } = await this.makeMany(id, request, (document, source, policy) =>
        withNeighbours(document, planPortions(document, fill, source, policy)),
      );
      return { repairId: repairIds[0], taskId };
    }
    const taskId = newId();
    return this.pictures.inTurn(id, (picture) =>
      this.pictures.once(picture, request, async () => {
        const { policy } = await this.pictures.store.rulesOf(id);
        const worked = withNeighbours(picture.document, planFill(picture.document, fill, picture.original, policy));
        const answer = { repairId: worked.repairId, taskId };
        await this.begin(picture, [worked.repairId], () =>
          this.pictures.apply(picture, worked.label, worked.changes, request, answer),
        );
        const edit = await this.pictures.lastEdit(id);
        this.renderings.renderFill(id, worked.label, worked.repairId, worked.tryIds, taskId, edit, late);
        return answer;
      }),
    );
  }

  /** Fills many faults in the background. All repairs are in the document, on disk, before the first is rendered. */
  async treat(id: string, faultIds: string[], request?: RequestName): Promise<{ repairs: number; taskId: string }> {
    const { repairIds, taskId } = await this.makeMany(id, request, (document, source, policy) =>
      planTreatments(document, faultIds, source, policy),
    );
    return { repairs: repairIds.length, taskId };
  }

  /** Puts many repairs into the document as one edit and renders them in the background. */
  private async makeMany(
    id: string,
    request: RequestName | undefined,
    work: (document: PictureDocument, source: Raster, policy: Policy) => ReturnType<typeof planTreatments>,
  ): Promise<{ repairIds: string[]; taskId: string }> {
    const taskId = newId();
    return this.pictures.inTurn(id, (picture) =>
      this.pictures.once(picture, request, async () => {
        const { policy } = await this.pictures.store.rulesOf(id);
        const many = work(picture.document, picture.original, policy);
        const answer = { repairIds: many.repairIds, taskId };
        await this.begin(picture, many.repairIds, () =>
          this.pictures.apply(picture, many.label, many.changes, request, answer),
        );
        const edit = await this.pictures.lastEdit(id);
        this.renderings.renderMany(id, many.label, many.repairIds, taskId, edit);
        return answer;
      }),
    );
  }

  /** Marks repairs as being rendered by whoever makes them, from before they are in the document on. */
  private async begin(picture: OpenPicture, repairIds: string[], apply: () => Promise<void>): Promise<void> {
    for (const repairId of repairIds) picture.working.add(repairId);
    try {
      await apply();
    } catch (error) {
      for (const repairId of repairIds) picture.working.delete(repairId);
      throw error;
    }
  }

  /** What is proposed for the marks that an edit makes. In portions, so that the view is served between them. */
  private async advise(picture: OpenPicture, edit: Edit): Promise<Advice[]> {
    const marks = marksOf(picture.document, edit);
    const out: Advice[] = [];
    for (let n = 0; n < marks.length; n += ADVISED_AT_ONCE) {
      const part = marks
        .slice(n, n + ADVISED_AT_ONCE)
        .map(({ kind, shapes }) => ({ kind, shapes: picture.onCanvas(shapes) }));
      const { advice } = await this.pictures.pool.run('advise', { raster: picture.composite, marks: part });
      for (const { lost, edges, ...rest } of advice)
        out.push({
          ...rest,
          ...(lost && { lost: picture.offCanvas(lost) }),
          ...(edges && { edges: picture.offCanvas(edges) }),
        });
    }
    return out;
  }
}

/** Said to a window that would take back what it has not seen. */
function unseen({ steps }: OpenPicture): Refused {
  const what = steps.undo ? ` (“${steps.undo}”)` : '';
  return new Refused(
    `Another window changed this picture meanwhile${what}. You see it now. Press Undo again to take it back.`,
    409,
  );
}

/** @throws Refused when a canvas, or a cut, would hold more pixels than a picture may */
export function withinLimits({ width, height }: Box, { megapixels }: Limits): void {
  const own = (width * height) / 1e6;
  if (own <= megapixels) return;
  throw new Refused(
    `This canvas would hold ${Math.round(own)} megapixels; at most ${megapixels} are possible. Make it smaller.`,
    413,
  );
}

/** Canvases and cuts that an edit sets. */
function canvasesOf(edit: SingleEdit): Box[] {
  if (edit.type === 'setStep')
    return [edit.spec.step === 'canvas' ? edit.spec.box : edit.spec.crop].flatMap((b) => b ?? []);
  if (edit.type === 'reframe') return [edit.canvas, edit.turn?.crop].flatMap((b) => b ?? []);
  return [];
}

/** @throws Refused when a job's policy forbids a repair */
function refusedByRules(document: PictureDocument, edit: SingleEdit, policy: Policy): void {
  if (edit.type === 'placeRepair' || edit.type === 'lift' || edit.type === 'stretch')
    refusedByPolicy(policy, faultsOf(document, edit));
  if (edit.type === 'placeRepair' || edit.type === 'changeSpec') refusedStrip(policy, edit.spec.method);
}

/** The faults that a repair is to treat, the one among them that it marks itself included. */
function faultsOf(document: PictureDocument, edit: Extract<Edit, { type: 'placeRepair' | 'lift' | 'stretch' }>) {
  const own: Array<{ number?: number; kind: FaultKind }> = document.faults.filter((f) => edit.faultIds.includes(f.id));
  return 'mark' in edit && edit.mark ? [...own, edit.mark] : own;
}
