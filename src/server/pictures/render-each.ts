import { Refused } from '../../contract/refused.ts';
import { sentenceFor } from '../background/sentence.ts';
import { Cancelled } from '../work/work.ts';
import type { Pictures } from './pictures.ts';
import type { TryRenderer } from './try-renderer.ts';
import { faultsOf } from './words.ts';

/** How long many renderings go on before they are laid on and shown, ms. */
const SHOWN_EVERY = 1200;

/** Renders the chosen tries of many repairs from the bottom up, and lays them on in portions. */
export async function renderEach(
  { pictures, tries }: { pictures: Pictures; tries: TryRenderer },
  id: string,
  repairIds: string[],
  signal: AbortSignal,
  progress: (done: number) => void,
): Promise<void> {
  const failures: string[] = [];
  await pictures.use(id, async (picture) => {
    const show = () => pictures.inTurn(id, (open) => pictures.show(open));
    const wanted = new Set(repairIds);
    let shownAt = Date.now();
    for (let done = 0; wanted.size; done++) {
      if (signal.aborted) throw new Cancelled();
      // Looked up anew each time: what was made meanwhile, or taken out, counts.
      const entries = picture.stack();
      const at = entries.findIndex((e) => wanted.has(e.repair.id));
      if (at < 0) break;
      const { repair } = entries[at];
      wanted.delete(repair.id);
      try {
        await tries.render(picture, entries, at, repair.chosen, signal);
      } catch (error) {
        // Stopped as a whole, or only this one was taken out.
        if (signal.aborted) throw error;
        if (!(error instanceof Cancelled)) {
          const reason = sentenceFor(error);
          failures.push(`${faultsOf(picture, repair.faultIds)}: ${reason}`);
          // It stays in the list as what it is, with its reason, so that its row can offer the next way.
          picture.fail(entries[at].key, reason);
        }
        if (error instanceof Refused && error.status === 507) throw error;
      }
      progress((done + 1) / repairIds.length);
      if (Date.now() - shownAt > SHOWN_EVERY) {
        await show();
        shownAt = Date.now();
      }
    }
    await show();
  });
  if (failures.length)
    throw new Refused(
      `${failures.length} of ${repairIds.length} could not be repaired, and each row says why. ${failures.slice(0, 3).join(' ')}`,
    );
}
