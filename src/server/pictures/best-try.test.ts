import type { Sign } from '../../core/check/finding.ts';
import type { Change, Repair } from '../../contract/document.ts';
import { chooseBestTry } from './best-try.ts';
import type { Pictures } from './pictures.ts';

const seam: Sign = {
  kind: 'seam',
  box: { x: 0, y: 0, width: 60, height: 8 },
  figure: 3,
  unit: 'times',
  difference: 30,
  across: 20,
  along: 60,
  remedy: 'other-try',
};

/** What is chosen of tries t1, t2, … whose signs are given, when `chosen` is at first. */
async function chosenOf(signs: Array<Sign[] | undefined>, chosen = 't1', set = {}, revision = 7): Promise<string> {
  const ids = signs.map((_, n) => `t${n + 1}`);
  const repair = {
    id: 'r',
    chosen,
    tries: ids.map((id) => ({ id, spec: { method: 'fill', ...set } })),
  } as unknown as Repair;
  const applied: Change[] = [];
  const picture = {
    revision: 7,
    document: { repairs: [repair] },
    view: { box: { width: 1500, height: 1000 } },
    index: { byTry: new Map(ids.map((id, n) => [id, { signs: signs[n] }])) },
  };
  const pictures = {
    inTurn: (_: string, work: (p: unknown) => Promise<void>) => work(picture),
    apply: (_: unknown, __: string, changes: Change[]) => Promise.resolve(void applied.push(...changes)),
  } as unknown as Pictures;
  await chooseBestTry(pictures, 'p', 'r', ids, revision);
  return (applied[0]?.after as Repair | undefined)?.chosen ?? chosen;
}

test('a later try that gives plainly less away is chosen, one that is no better is not', async () => {
  expect(await chosenOf([[seam], [], [seam]])).toBe('t2');
  expect(await chosenOf([[], [], []])).toBe('t1');
  expect(await chosenOf([[seam], [seam], [seam]])).toBe('t1');
});

test('what the editor chose meanwhile stays, and nothing is chosen by what was not measured', async () => {
  expect(await chosenOf([[seam], [], []], 't3')).toBe('t3');
  expect(await chosenOf([undefined, [], []])).toBe('t1');
  expect(await chosenOf([[seam], undefined, undefined])).toBe('t1');
  expect(await chosenOf([[seam], [], []], 't1', {}, 6)).toBe('t1');
});

test('what runs on as an editor has drawn it stays', async () => {
  const edges = [
    {
      op: 'add',
      kind: 'strand',
      points: [
        [0, 0],
        [9, 9],
      ],
      size: 2,
    },
  ];
  expect(await chosenOf([[seam], [], []], 't1', { edges })).toBe('t1');
  expect(await chosenOf([[seam], [], []], 't1', { edges: [], grounds: edges })).toBe('t1');
});
