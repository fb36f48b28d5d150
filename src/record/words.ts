import type { Fault } from '../contract/document.ts';
import type { OpenRecord, RecordedRepair } from '../contract/record.ts';
import { kindFacts, type FaultKind } from '../core/faults/kinds.ts';
import type { FillStyle } from '../core/repair/fill/settings.ts';
import type { RepairSpec } from '../core/repair/spec.ts';

/** What each method did, in a word. */
const METHOD_WORDS: Record<RepairSpec['method'], string> = {
  fill: 'filled',
  lift: 'lifted',
  stretch: 'drawn out',
  strip: 'laid as a strip',
  given: 'came with the file',
  copy: 'copied',
  blend: 'blended',
  patch: 'patched',
  transplant: 'transplanted',
  shade: 'shaded',
};

/** How each style fills, in a word. */
const STYLE_WORDS: Record<FillStyle | 'auto', string> = {
  auto: 'by itself',
  faithful: 'predicted',
  smooth: 'predicted, grain kept low',
  straight: 'predicted, edges carried straight on',
  textured: 'texture from nearby',
  first: 'in large pieces',
  second: 'in large pieces',
  third: 'in large pieces',
  near: 'from donors close by',
  far: 'from donors farther off',
  lines: 'along lines',
};

/** What a repair did, as its record says. */
export const methodWords = (spec: RepairSpec): string =>
  spec.method === 'fill' ? `${METHOD_WORDS.fill}, ${STYLE_WORDS[spec.style]}` : METHOD_WORDS[spec.method];

const point = ([x, y]: readonly [number, number]) => `${Math.round(x)}, ${Math.round(y)}`;

/** Where a repair took its pixels from, as its record says. */
export function donorWords(spec: RepairSpec): string {
  if (spec.method === 'fill') return spec.donorArea.length ? 'from an area that was chosen' : 'from around, searched';
  if (spec.method === 'stretch') return 'the background, drawn out';
  if (spec.method === 'strip') return 'made up, with the tone and grain of what is above it';
  if (spec.method === 'lift') return 'what is beneath it, kept';
  if (spec.method === 'given' || spec.method === 'shade') return '';
  if (!spec.donor) return 'from around';
  const { turn, scale, mirror } = spec.donor;
  const pose = [
    turn && `turned ${Math.round(turn)}°`,
    scale !== 1 && `${Math.round(100 * scale)} %`,
    mirror !== 'none' && 'mirrored',
  ].filter(Boolean);
  return [`from ${point(spec.donor.from)}`, ...pose].join(', ');
}

/** One repair in a line, for lists: `4  strand, filled, faithful, 0.3 % of the picture`. */
export function lineOf({ kinds, words, area, strength }: RecordedRepair): string {
  const what = [...new Set(kinds)].join(', ') || 'place';
  const how = strength < 1 ? ` at ${Math.round(100 * strength)} %` : '';
  return `${what}, ${words}${how}, ${percent(area)} of the picture`;
}

/** A share in %, with as many places as it needs. */
export const percent = (area: number): string =>
  area >= 10 ? `${Math.round(area)} %` : area >= 0.01 ? `${Number(area.toPrecision(2))} %` : 'under 0.01 %';

const counted = (kinds: readonly FaultKind[]): string => {
  const counts = new Map<FaultKind, number>();
  for (const kind of kinds) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  return [...counts]
    .map(([kind, n]) => (n === 1 ? `1 ${kind}` : `${n} ${kindFacts(kind).plural.toLowerCase()}`))
    .join(', ');
};

/**
 * A plain sentence that says what was done, put together from the faults that repairs treat.
 * @param frames how many frames the picture was joined from; 0 where it came as one
 * @param strips how many strips were laid, which were not there
 */
export function disclosureOf(treated: readonly Pick<Fault, 'kind'>[], frames = 0, strips = 0): string {
  const joined = frames ? `This picture was joined from ${frames} frames. ` : '';
  const laid = strips
    ? `${strips === 1 ? 'A strip that was' : `${strips} strips that were`} not there ${strips === 1 ? 'was' : 'were'} drawn in. `
    : '';
  if (!treated.length && laid) return `${joined}${laid}No generative model was used.`;
  if (!treated.length) return `${joined}Nothing ${joined ? 'else ' : ''}in this picture was changed.`;
  const kinds = treated.map((f) => f.kind);
  const scene = kinds.filter((k) => kindFacts(k).changesScene);
  const damage = kinds.filter((k) => !kindFacts(k).changesScene);
  const parts = [];
  if (damage.length) parts.push(`Damage was repaired: ${counted(damage)}.`);
  if (scene.length) parts.push(`What the picture shows was changed: ${counted(scene)} removed.`);
  parts.push('The places were restored from the picture itself; no generative model was used.');
  return joined + laid + parts.join(' ');
}

/** Repairs of a record that are seen in the picture. */
export const seenIn = ({ repairs, layers }: Pick<OpenRecord, 'repairs' | 'layers'>): RecordedRepair[] =>
  repairs.filter((r) => r.visible && r.strength > 0 && layers[r.layer].visible && layers[r.layer].opacity > 0);

/** Where a repair of a record took its pixels from, as a table says. */
export const donorLine = ({ donor }: RecordedRepair): string => donor || '–';

/** A day, as 2026-11-27. */
export const plainDate = (at: number): string => new Date(at).toISOString().slice(0, 10);
