import { createHash, type Hash } from 'node:crypto';
import { STEPS, type StepSpec } from '../../core/chain/registry.ts';
import type { RevealMark } from '../../core/mask/reveal.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';

const texts = new WeakMap<object, string>();

/** JSON of an element of a long list, worked out once. */
function textOf(element: object): string {
  let text = texts.get(element);
  if (text === undefined) texts.set(element, (text = JSON.stringify(element)));
  return text;
}

/** A list whose digest was taken before, up to its end. */
interface Taken {
  head: string;
  list: readonly object[];
  state: Hash;
}

const REMEMBERED = 48;
/** The last lists whose digests were taken, the newest first: the next one is most often one of them with something added. */
const taken: Taken[] = [];

function begins(list: readonly object[], start: readonly object[]): boolean {
  if (start.length > list.length) return false;
  for (let i = start.length - 1; i >= 0; i--) if (list[i] !== start[i]) return false;
  return true;
}

/** SHA-256 of `head` + the JSON of a list + `tail`; what was hashed of the list before is not hashed again. */
function digestOf(head: string, list: readonly object[], tail: string): string {
  const at = taken.findIndex((t) => t.head === head && begins(list, t.list));
  const known = at >= 0 ? taken.splice(at, 1)[0] : null;
  const state = known ? known.state : createHash('sha256').update(`${head}[`);
  for (let i = known?.list.length ?? 0; i < list.length; i++) state.update(`${i ? ',' : ''}${textOf(list[i])}`);
  const digest = state.copy().update(`]${tail}`).digest('hex');
  taken.unshift({ head, list, state });
  if (taken.length > REMEMBERED) taken.pop();
  return digest;
}

const PLACE = '\u0000list\u0000';
const MARK = JSON.stringify(PLACE);
/** Lists from this length on are hashed piece by piece. */
const LONG = 32;

/** JSON of a spec, its strokes left out, before and behind them. */
function around(spec: RepairSpec): [string, string, readonly object[]] | null {
  if (!('strokes' in spec) || spec.strokes.length < LONG) return null;
  const [head, tail] = JSON.stringify({ ...spec, strokes: PLACE }).split(MARK);
  return [head, tail, spec.strokes];
}

/** A spec as text; the same as JSON.stringify gives, with long lists put together from pieces worked out before. */
export function specText(spec: RepairSpec): string {
  const parts = around(spec);
  return parts ? `${parts[0]}[${parts[2].map(textOf).join(',')}]${parts[1]}` : JSON.stringify(spec);
}

const prefixes = new WeakMap<RepairSpec, { input: string; state: Hash }>();

/**
 * Names what a step gives: of a source its hash, of a step SHA-256 of JSON of the key of its input and its spec. A stage for
 * which nothing is set passes the key through.
 */
export const stepKey = (input: string, spec: StepSpec): string =>
  createHash('sha256')
    .update(JSON.stringify([input, spec]))
    .digest('hex');

/** Names the base that repairs are laid on: the source after its scan steps. */
export const baseKey = (source: string, specs: readonly StepSpec[]): string =>
  specs.filter((s) => STEPS[s.step].stage === 'scan').reduce(stepKey, source);

/** Names the outcome of rendering a spec over given pixels: SHA-256 of JSON of the base's key, the spec and what lies beneath. */
export function keyOf(input: string, spec: RepairSpec, beneath: string): string {
  const parts = around(spec);
  if (parts) return digestOf(`["${input}",${parts[0]}`, parts[2], `${parts[1]},${beneath}]`);
  let prefix = prefixes.get(spec);
  if (prefix?.input !== input) {
    prefix = { input, state: createHash('sha256').update(`["${input}",${JSON.stringify(spec)},`) };
    prefixes.set(spec, prefix);
  }
  return prefix.state.copy().update(`${beneath}]`).digest('hex');
}

const names = new WeakMap<readonly RevealMark[], string>();

/** Short name of what is hidden and shown of a rendering; empty when all of it is shown. */
export function revealName(marks: readonly RevealMark[]): string {
  if (!marks.length) return '';
  let name = names.get(marks);
  if (!name) names.set(marks, (name = digestOf('', marks, '').slice(0, 20)));
  return name;
}

/** Reveal marks as text. */
export const marksText = (marks: readonly RevealMark[]): string => `[${marks.map(textOf).join(',')}]`;
