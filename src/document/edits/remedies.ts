import { SOFT_EDGE, type Finding, type Remedy } from '../../core/check/finding.ts';
import { boxShape } from '../../core/mask/shapes.ts';
import { isPredicted, LAID_OUT, type FillStyle } from '../../core/repair/fill/settings.ts';
import type { FillSpec, RepairSpec } from '../../core/repair/spec.ts';

/** Another way to fill, and the remedy that it is. */
export interface Tried {
  spec: FillSpec;
  remedy: Remedy;
}

/** px by which a margin is widened, at least and at most; and at most beside a strand, where whatever is near is near in picture too. */
const WIDER = { least: 3, most: 24 };
const WIDER_BESIDE_STRAND = 6;
const MOST_MARGIN = 200;

/** Whether a cover is thin: then fewer styles go about it in other ways. */
const isThin = (style: FillSpec['style']) => style === 'textured' || (style !== 'auto' && isPredicted(style));

function wider(spec: FillSpec, { box, figure, unit }: Finding): FillSpec {
  const most = isThin(spec.style) ? WIDER_BESIDE_STRAND : WIDER.most;
  const missing = Math.max(WIDER.least, Math.round(Math.min(box.width, box.height) / 3));
  const by = Math.min(most, unit === SOFT_EDGE ? Math.ceil(figure) + 1 : missing);
  return { ...spec, margin: Math.min(MOST_MARGIN, spec.margin + by) };
}

/** What may mend a finding, the likeliest first. */
function candidates(spec: FillSpec, finding: Finding): FillSpec[] {
  const restyled = (styles: readonly FillStyle[], thin: readonly FillStyle[] = ['textured']) =>
    (isThin(spec.style) ? thin : styles).map((style) => ({ ...spec, style }));
  switch (finding.remedy) {
    case 'widen-margin':
      return [wider(spec, finding)];
    case 'other-donor':
      return finding.partner ? [{ ...spec, barred: [...spec.barred, boxShape(finding.partner)] }] : [];
    case 'match-tone':
      return spec.tone === 'strong' ? [wider(spec, finding)] : [{ ...spec, tone: 'strong' }];
    case 'restore-grain':
      return restyled(['textured', 'near']);
    case 'copy-along':
      return restyled(['third', 'lines', 'first'], ['straight', 'textured']);
    case 'other-try':
      return restyled([...LAID_OUT, 'lines', 'near']);
    // A question to the editor, and what is no matter of how it is filled.
    case 'cover-shadow':
    case 'treat':
    case 'update':
      return [];
  }
}

/** What tells ways of filling apart, chance aside. */
const wayOf = ({ style, margin, tone, barred }: FillSpec) => JSON.stringify([style, margin, tone, barred]);

/**
 * The next way that is worth trying against what shows of a fill; null where none is known, all were tried, or the editor said how
 * edges and grounds run.
 * @param tried ways that were tried before
 * @param seed of the new one
 */
export function remedied(spec: RepairSpec, finding: Finding, tried: readonly RepairSpec[], seed: number): Tried | null {
  if (spec.method !== 'fill' || spec.edges?.length || spec.grounds?.length) return null;
  const known = new Set(tried.flatMap((t) => (t.method === 'fill' ? [wayOf(t)] : [])));
  const next = candidates(spec, finding).find((c) => !known.has(wayOf(c)));
  return next ? { spec: { ...next, seed }, remedy: finding.remedy } : null;
}
