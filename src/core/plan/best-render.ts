import { findingsOf } from '../check/check.ts';
import type { Finding } from '../check/finding.ts';
import { bestOf, showing } from '../check/order.ts';
import { signsOfRepair } from '../check/repair.ts';
import type { Beneath, Rendered } from '../repair/method.ts';
import { LAID_OUT } from '../repair/fill/settings.ts';
import { renderRepair } from '../repair/registry.ts';
import type { RepairSpec } from '../repair/spec.ts';

/** Renders a repair over what lies beneath it. */
export type Render = (beneath: Beneath, spec: RepairSpec, onProgress?: (done: number) => void) => Rendered;

/** A repair as it was rendered, and what would be seen of it. */
type Tried = Rendered & { found: Finding[] };

/** What may be tried in place of a repair, itself first: another way of laying out, where it is a fill that is laid out. */
function triesOf(spec: RepairSpec, most: number): RepairSpec[] {
  if (spec.method !== 'fill' || spec.style !== LAID_OUT[0]) return [spec];
  return LAID_OUT.slice(0, most).map((style) => ({ ...spec, style }));
}

/**
 * Renders repairs and looks at each as a check does: while something would be seen of a fill it is tried otherwise, and of all tries the best is
 * taken, by the order in which tries are shown to an editor.
 * @param most tries of a fill, 1 to 3
 * @param longSidePx longer side of what is delivered, px
 * @param found what is found in each repair that is taken is added to it
 */
export function bestRender(most: number, longSidePx: number, found: Finding[]): Render {
  return (beneath, spec, onProgress) => {
    const tries = triesOf(spec, most);
    const made: Tried[] = [];
    for (const [n, own] of tries.entries()) {
      const rendered = renderRepair(beneath, own, (done) => onProgress?.((n + done) / tries.length));
      made.push({ ...rendered, found: findingsOf(signsOfRepair(beneath, own, rendered.patch), longSidePx) });
      if (!showing(made[n].found)) break;
    }
    const best = made[bestOf(made.map((m) => m.found))];
    found.push(...best.found);
    return best;
  };
}
