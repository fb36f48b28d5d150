import { FAULT_KINDS, kindFacts, KINDS } from './kinds.ts';

describe('the kinds of fault', () => {
  test('are headed by words of their own, also in a survey', () => {
    const words = FAULT_KINDS.flatMap((k) => [
      kindFacts(k).plural,
      ...(kindFacts(k).found ? [kindFacts(k).found] : []),
    ]);
    expect(new Set(words).size).toBe(words.length);
    expect(FAULT_KINDS).toHaveLength(Object.keys(KINDS).length);
  });

  test('are worked on in the order of common practice: the print first, then things, what was added last', () => {
    const stage = (kind: (typeof FAULT_KINDS)[number]) => kindFacts(kind).stage;
    const order = ['tear', 'stain', 'speck', 'scratch', 'crease', 'mesh', 'glare', 'object', 'gap'] as const;
    order.slice(1).forEach((kind, n) => expect(stage(kind)).toBeGreaterThan(stage(order[n])));
    expect(stage('hair')).toBe(stage('speck'));
    expect(stage('strand')).toBe(stage('mesh'));
  });

  test('take some time each; dust and damage change nothing of the scene', () => {
    for (const kind of FAULT_KINDS) expect(kindFacts(kind).minutes).toBeGreaterThan(0);
    const damage = FAULT_KINDS.filter((k) => !kindFacts(k).changesScene);
    expect(damage.sort()).toEqual(['crease', 'gap', 'hair', 'scratch', 'scuff', 'speck', 'stain', 'tear']);
  });
});
