import type { FaultKind } from '../contract/document.ts';
import type { RecordedRepair } from '../contract/record.ts';
import type { Donor } from '../core/repair/hand/donor.ts';
import type { RepairSpec } from '../core/repair/spec.ts';
import { canonical, sealOf } from './seal.ts';
import { disclosureOf, donorWords, lineOf, methodWords, percent } from './words.ts';

const of = (...kinds: FaultKind[]) => kinds.map((kind) => ({ kind }));
const donor = (more: Partial<Donor> = {}): Donor => ({
  from: [80.4, 90],
  at: [110, 60],
  travels: false,
  turn: 0,
  scale: 1,
  mirror: 'none',
  ...more,
});
const patch = (d: Donor) => ({ method: 'patch', cover: [], feather: 2, blended: true, donor: d }) as RepairSpec;

describe('the sentence that says what was done', () => {
  test('tells damage from what the picture shows', () => {
    expect(disclosureOf(of('speck', 'speck', 'scratch'))).toBe(
      'Damage was repaired: 2 specks, 1 scratch. The places were restored from the picture itself; no generative model was used.',
    );
    expect(disclosureOf(of('strand', 'object', 'object'))).toContain(
      'What the picture shows was changed: 1 strand, 2 objects removed.',
    );
    expect(disclosureOf(of('speck', 'strand'))).toMatch(/^Damage was repaired: 1 speck\. What the picture shows/);
  });

  test('says so when nothing was done', () => expect(disclosureOf([])).toBe('Nothing in this picture was changed.'));
});

describe('words of a repair', () => {
  test.each([
    [donor(), 'from 80, 90'],
    [donor({ turn: 12.4, scale: 1.5, mirror: 'across' }), 'from 80, 90, turned 12°, 150 %, mirrored'],
  ])('its donor with the pose %#', (d, words) => expect(donorWords(patch(d))).toBe(words));

  test('a fill says how, a lift that what is beneath was kept', () => {
    const fill = { method: 'fill', style: 'third', donorArea: [] } as unknown as RepairSpec;
    expect([methodWords(fill), donorWords(fill)]).toEqual(['filled, in large pieces', 'from around, searched']);
    const confined = {
      ...fill,
      donorArea: [{ op: 'add', kind: 'box', x: 0, y: 0, width: 9, height: 9 }],
    } as RepairSpec;
    expect(donorWords(confined)).toBe('from an area that was chosen');
    const lift = { method: 'lift', cover: [], amount: 1, avoid: [] } as RepairSpec;
    expect([methodWords(lift), donorWords(lift)]).toEqual(['lifted', 'what is beneath it, kept']);
  });

  test('a line of a list has kind, method, strength where it is not full, and share', () => {
    const repair = { kinds: ['speck', 'speck'], words: 'filled, woven', area: 0.0314, strength: 0.7 } as RecordedRepair;
    expect(lineOf(repair)).toBe('speck, filled, woven at 70 %, 0.031 % of the picture');
    expect(lineOf({ ...repair, kinds: [], strength: 1 })).toBe('place, filled, woven, 0.031 % of the picture');
  });

  test.each([
    [42.4, '42 %'],
    [3.14159, '3.1 %'],
    [0.0123, '0.012 %'],
    [0.0004, 'under 0.01 %'],
  ])('%d %% has as many places as it needs', (area, words) => expect(percent(area)).toBe(words));
});

describe('the seal', () => {
  test('does not depend on the order of keys, nor on what has no value', () => {
    expect(canonical({ b: [1, { d: null, c: 'x' }], a: undefined })).toBe('{"b":[1,{"c":"x","d":null}]}');
    const one = { format: 'f', repairs: [{ x: 1, y: 2 }] } as never;
    const two = { repairs: [{ y: 2, x: 1 }], format: 'f', seal: 'whatever' } as never;
    expect(sealOf(one)).toBe(sealOf(two));
  });

  test('changes with every value', () => {
    const of_ = (value: unknown) => sealOf({ value } as never);
    expect(new Set([0, 1, '1', null, [1], { a: 1 }, false].map(of_)).size).toBe(7);
  });
});
