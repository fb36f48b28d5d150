import { planRemoval } from '../../document/edits/repairs.ts';
import type { Pictures } from './pictures.ts';

/** Takes repairs that were never rendered out of the document again, in one edit; those that failed stay, and say so. */
export async function withdrawUnrendered(pictures: Pictures, id: string, repairIds: readonly string[]): Promise<void> {
  await pictures.inTurn(id, async (picture) => {
    const own = new Set(repairIds);
    const failed = new Set(
      picture.stack().flatMap((e) => (picture.failureOf(e.key) === undefined ? [] : [e.repair.id])),
    );
    const missing = picture.document.repairs.filter(
      (r) => own.has(r.id) && !failed.has(r.id) && !picture.index.byTry.has(r.chosen),
    );
    if (!missing.length) return;
    const changes = planRemoval(picture.document, missing);
    await pictures.apply(picture, `Stop before ${missing.length} repairs`, changes);
  });
}

/** Takes a fill that never came about out of the document again; what else was edited meanwhile stays. */
export async function withdraw(
  pictures: Pictures,
  id: string,
  repairId: string,
  tryIds: readonly string[],
): Promise<void> {
  await pictures.inTurn(id, async (picture) => {
    const repair = picture.document.repairs.find((r) => r.id === repairId);
    if (!repair) return;
    const rendered = repair.tries.filter((t) => picture.index.byTry.has(t.id));
    if (rendered.length === repair.tries.length) return;
    if (rendered.length === 0) return pictures.apply(picture, 'Stop the fill', planRemoval(picture.document, [repair]));
    const kept = rendered.some((t) => t.id === repair.chosen) ? repair.chosen : rendered[rendered.length - 1].id;
    const after = {
      ...repair,
      tries: repair.tries.filter((t) => !tryIds.includes(t.id) || picture.index.byTry.has(t.id)),
      chosen: kept,
    };
    const change = { kind: 'repair' as const, id: repairId, before: repair, after };
    await pictures.apply(picture, 'Stop after the tries so far', [change]);
  });
}
