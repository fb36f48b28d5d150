import type { PictureState } from '../../contract/api.ts';
import type { Fault } from '../../contract/document.ts';
import type { Sign } from '../../core/check/finding.ts';
import { proportionOf, type SubjectPlace } from '../../core/frame/format.ts';
import { USUAL_VIEWING } from '../../core/check/check.ts';
import { checkedInWords, costInShort, costsOf, lookedInWords, worstOf } from './way-words.ts';
import { cropWay, extendWay, mixedWay, stretchWay, type Asked } from './ways.ts';

const FACTS = { width: 2400, height: 3600 };
const subject: SubjectPlace = { box: { x: 400, y: 300, width: 900, height: 3000 }, focus: [850, 700], looks: 0 };
const asked = (set: Partial<Asked> = {}): Asked => ({
  proportion: proportionOf('1:1'),
  placement: { across: null, down: null },
  subject,
  degrees: 0,
  ...set,
});
const gap = (state: Fault['state']) => ({ id: 'gap', number: 1, kind: 'gap', state, shapes: [] }) as unknown as Fault;
const speck = (x: number): Fault => ({
  id: `speck${x}`,
  number: 2,
  kind: 'speck',
  state: 'open',
  shapes: [{ op: 'add', kind: 'box', x, y: 900, width: 6, height: 6 }],
  margin: 1,
  feather: 1,
});
const stateOf = (faults: Fault[], more: Partial<PictureState> = {}) =>
  ({
    picture: { facts: FACTS },
    document: { faults, repairs: [], layers: [], steps: [] },
    statuses: [],
    ...more,
  }) as unknown as PictureState;

test('what a way costs stands in two or three words', () => {
  const of = (a: Asked) => ({
    crop: costInShort(cropWay(FACTS, a), FACTS, a.subject),
    extend: costInShort(extendWay(FACTS, a), FACTS, a.subject),
    stretch: costInShort(stretchWay(FACTS, a)!, FACTS, a.subject),
  });
  expect(of(asked())).toEqual({ crop: 'cuts the subject', extend: '33 % to fill', stretch: expect.stringMatching(/^\d\.\d\d times(, too far)?$/) as string }); // prettier-ignore
  expect(costInShort(cropWay(FACTS, asked({ subject: null })), FACTS, null)).toBe('33 % lost');
  const same = of(asked({ proportion: null }));
  expect(same).toEqual({ crop: 'nothing lost', extend: 'nothing to add', stretch: 'nothing to add' });
  // Where the subject stands at the edge there is no background to draw out.
  const edge = { ...subject, box: { ...subject.box, x: 0 } };
  const placed = asked({ subject: edge, placement: { across: 'second third', down: null } });
  expect(costInShort(stretchWay(FACTS, placed)!, FACTS, edge)).toBe('nothing to draw');
  const mixed = mixedWay(FACTS, asked())!;
  expect(costInShort(mixed, FACTS, subject)).toMatch(/^1\.\d\d times, \d+ % to fill$/);
});

test('in figures it says the size, what is lost or made up, and what had better be cleaned first', () => {
  const state = stateOf([speck(20), speck(2000)]);
  expect(costsOf(state, cropWay(FACTS, asked()), subject).slice(1)).toEqual([
    '33 % of the picture is lost',
    'cuts into the subject',
  ]);
  const extend = costsOf(state, extendWay(FACTS, asked()), subject);
  expect(extend[0]).toMatch(/^3.600 × 3.600 px$/);
  expect(extend[1]).toBe('33 % of it has to be filled');
  expect(extend[2]).toMatch(/^clean 2 open faults beside it first/);
  const stretch = costsOf(state, stretchWay(FACTS, asked())!, subject);
  expect(stretch.join()).toMatch(/times at the left.*clean 2 open faults first, or they are drawn out too/);
  const mixed = costsOf(stateOf([]), mixedWay(FACTS, asked())!, subject);
  expect(mixed).toHaveLength(3);
  expect(mixed[1]).toMatch(/^1\.\d\d times at the left/);
  expect(mixed[2]).toMatch(/has to be filled$/);
});

/** Something that plainly shows. */
const seam: Sign = {
  kind: 'seam',
  box: { x: 10, y: 10, width: 80, height: 90 },
  figure: 30,
  unit: 'levels',
  difference: 30,
  across: 20,
  along: 90,
  remedy: 'other-try',
};

test('of a way that was looked at it says what would give it away, why it cannot be gone, or that it is not known yet', () => {
  expect(lookedInWords(undefined, USUAL_VIEWING).short).toBe('being tried…');
  expect(worstOf(undefined, USUAL_VIEWING)).toBeUndefined();
  const refused = { refused: 'There is nothing to draw out.' };
  expect(lookedInWords(refused, USUAL_VIEWING)).toEqual({ short: 'not possible', long: refused.refused });
  expect(worstOf(refused, USUAL_VIEWING)).toBe(Infinity);
  const clean = { picture: '', signs: [], longSide: 400 };
  expect(lookedInWords(clean, USUAL_VIEWING).short).toBe('nothing seen');
  expect(worstOf(clean, USUAL_VIEWING)).toBe(0);
  const seen = { picture: '', signs: [seam], longSide: 400 };
  expect(worstOf(seen, USUAL_VIEWING)).toBeGreaterThan(0.5);
  expect(lookedInWords(seen, USUAL_VIEWING)).toEqual({
    short: 'hard seam',
    long: 'Tried small, Check says: hard seam.',
  });
});

test('what was made of gaps is told once all of it is shown and checked', () => {
  expect(checkedInWords(stateOf([gap('open')]), USUAL_VIEWING)).toBe('');
  const repairs = [{ id: 'r', faultIds: ['gap'], chosen: 't', tries: [{ id: 't' }] }];
  const made = (state: string, signs?: Sign[]) =>
    checkedInWords(
      stateOf([gap('treated')], {
        document: { faults: [gap('treated')], repairs, layers: [], steps: [] },
        statuses: [{ id: 'r', state, tries: { t: { signs } } }],
      } as unknown as Partial<PictureState>),
      USUAL_VIEWING,
    );
  expect(made('working')).toBe('Being made and checked.');
  expect(made('shown')).toBe('Being made and checked.');
  expect(made('shown', [])).toBe('Check finds nothing that would be seen.');
  expect(made('shown', [seam])).toBe('Check: hard seam.');
});
