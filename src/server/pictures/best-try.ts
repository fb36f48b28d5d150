import { findingsOf } from '../../core/check/check.ts';
import { inOrderOfVerdict } from '../../core/check/order.ts';
import type { Change, Repair } from '../../contract/document.ts';
import type { OpenPicture } from './open-picture.ts';
import type { Pictures } from './pictures.ts';

/** The try of a fill that gives plainly less away than the one that was made first; undefined where that is the best. */
function betterThanFirst({ index, view }: OpenPicture, tryIds: readonly string[]): string | undefined {
  const longSide = Math.max(view.box.width, view.box.height);
  const found = tryIds.map((id) => {
    const signs = index.byTry.get(id)?.signs;
    return signs ? findingsOf(signs, longSide) : undefined;
  });
  const [best] = inOrderOfVerdict(found);
  return found[0] && best > 0 ? tryIds[best] : undefined;
}

/** Whether an editor has drawn how it runs on inside: then it is as it was wanted. */
const isGuided = ({ tries, chosen }: Repair): boolean => {
  const spec = tries.find((t) => t.id === chosen)?.spec;
  return spec?.method === 'fill' && [spec.edges, spec.grounds].some((drawn) => drawn?.length);
};

/**
 * Chooses the best of tries that were just made, unless the editor did anything meanwhile. An edit like any other: undo takes it back.
 * @param revision of the picture when they were asked for
 */
export async function chooseBestTry(
  pictures: Pictures,
  id: string,
  repairId: string,
  tryIds: readonly string[],
  revision: number,
): Promise<void> {
  await pictures.inTurn(id, async (picture) => {
    // Undo has to take back what the editor did last.
    if (picture.revision !== revision) return;
    const repair = picture.document.repairs.find((r) => r.id === repairId);
    const better = repair?.chosen === tryIds[0] ? betterThanFirst(picture, tryIds) : undefined;
    if (!repair || !better || !repair.tries.some((t) => t.id === better) || isGuided(repair)) return;
    const after: Repair = { ...repair, chosen: better };
    const change: Change = { kind: 'repair', id: repairId, before: repair, after };
    await pictures.apply(picture, 'Choose the try that shows least', [change]);
  });
}
