import type { Change, Repair } from '../../contract/document.ts';
import type { Sign } from '../../core/check/finding.ts';
import { DEFAULT_FILL } from '../../core/repair/fill/settings.ts';
import type { FillSpec } from '../../core/repair/spec.ts';
import { BetterTries } from './better-tries.ts';
import type { Pictures } from './pictures.ts';
import type { TryRenderer } from './try-renderer.ts';

const sign = (kind: Sign['kind'], remedy: Sign['remedy'], difference = 30): Sign => ({
  kind,
  box: { x: 0, y: 0, width: 60, height: 24 },
  figure: 3,
  unit: 'times',
  difference,
  across: 20,
  along: 60,
  remedy,
});
const SEAM = sign('seam', 'other-try');
const LEFT = sign('leftover', 'widen-margin');
const spec: FillSpec = {
  method: 'fill',
  ...DEFAULT_FILL,
  style: 'first',
  cover: [{ op: 'add', kind: 'brush', points: [[50, 50]], size: 40 }],
  margin: 2,
  feather: 1,
  donorArea: [],
  barred: [],
  avoid: [],
  seed: 7,
};

/**
 * A fill with tries of given signs, improved by itself.
 * @param later signs of what is tried after them, one after another
 * @param amends how many times nothing touched the fill since, or what it treats
 */
async function improved(
  signs: Array<Sign[] | undefined>,
  { later = [] as Sign[][], amends = Infinity, more = {} } = {},
) {
  const styles = ['first', 'second', 'third'] as const;
  const tries = signs.map((_, n) => ({ id: `t${n + 1}`, spec: { ...spec, style: styles[n], ...more } }));
  const repair = { id: 'r', chosen: 't1', tries, faultIds: ['f'] } as unknown as Repair;
  const picture = {
    document: { repairs: [repair] },
    view: { box: { width: 1500, height: 1000 } },
    index: { byTry: new Map(tries.map(({ id }, n) => [id, { signs: signs[n] }])) },
    stack: () => [],
  };
  const untouched: unknown[] = [];
  const pictures = {
    use: (_: string, work: (p: unknown) => unknown) => Promise.resolve(work(picture)),
    inTurn: (_: string, work: (p: unknown) => unknown) => Promise.resolve(work(picture)),
    amend: (_: unknown, __: number, [change]: Change[], others: unknown) => {
      untouched.push(others);
      if (amends-- <= 0) return Promise.resolve(false);
      picture.document.repairs[0] = change.after as Repair;
      return Promise.resolve(true);
    },
  } as unknown as Pictures;
  const rendered: string[] = [];
  const renderer = {
    renderTry: (_: string, __: string, id: string) => {
      picture.index.byTry.set(id, { signs: later[rendered.length] });
      return Promise.resolve(void rendered.push(id));
    },
  } as unknown as TryRenderer;
  const shows = await new BetterTries(pictures, renderer).improve(
    { pictureId: 'p', repairId: 'r', edit: 4 },
    new AbortController().signal,
  );
  const [after] = picture.document.repairs;
  return { shows, chosen: after.tries.findIndex((t) => t.id === after.chosen) + 1, tries: after.tries, untouched };
}

test('a later try that gives plainly less away is put in use; one that is no better is not', async () => {
  expect(await improved([[SEAM], [], [SEAM]])).toMatchObject({
    chosen: 2,
    shows: false,
    untouched: [[{ kind: 'fault', id: 'f' }]],
  });
  expect(await improved([[], [], []])).toMatchObject({ chosen: 1, shows: false });
});

test('while the best still shows, a remedy is tried, and put in use where it helps', async () => {
  const { chosen, tries, shows } = await improved([[LEFT], [LEFT], [LEFT]], { later: [[]] });
  expect({ chosen, shows }).toEqual({ chosen: 4, shows: false });
  expect(tries[3]).toMatchObject({ remedy: 'widen-margin', spec: { style: 'first', margin: 10 } });
});

test('at most two more are made, and what still shows is told', async () => {
  const { chosen, tries, shows } = await improved([[SEAM]], { later: [[SEAM], [SEAM], [SEAM]] });
  expect(tries.map((t) => (t.spec as FillSpec).style)).toEqual(['first', 'second', 'third']);
  expect({ chosen, shows }).toEqual({ chosen: 1, shows: true });
});

test('nothing is chosen or tried once the fill was touched, by what was not measured, or over what was drawn', async () => {
  expect(await improved([[SEAM], [], []], { amends: 0 })).toMatchObject({ chosen: 1, shows: true });
  expect((await improved([[SEAM], [SEAM]], { amends: 0, later: [[]] })).tries).toHaveLength(2);
  expect(await improved([undefined, [], []])).toMatchObject({ chosen: 1 });
  const edges = [{ op: 'add' as const, kind: 'strand' as const, points: [[0, 0], [9, 9]] as Array<[number, number]>, size: 1 }]; // prettier-ignore
  expect(await improved([[SEAM], [], []], { more: { edges } })).toMatchObject({ chosen: 1 });
});
