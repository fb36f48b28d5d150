import { randomiser } from '../../../../bench/planted.ts';
import { doubtOfRare, prevalenceShift } from './prevalence.ts';

const random = randomiser(11);
const gauss = () => Math.sqrt(-2 * Math.log(random() + 1e-9)) * Math.cos(2 * Math.PI * random());
const odds = (p: number) => Math.log(p / (1 - p));

/** Logits of a classifier fitted at `prior` on two bells 2·`apart` deviations apart, for a picture with `share` of faults. */
function logits(share: number, prior: number, apart = 1.5, count = 20000): number[] {
  return Array.from({ length: count }, () => {
    const v = gauss() + (random() < share ? apart : -apart);
    return 2 * apart * v + odds(prior);
  });
}

describe('how frequent faults are in a picture', () => {
  test.each([
    [0.3, 0.3],
    [0.05, 0.3],
    [0.01, 0.05],
    [0.2, 0.03],
  ])('a share of %d is found by a classifier fitted at %d', (share, prior) => {
    const shift = prevalenceShift(logits(share, prior), prior);
    expect(Math.abs(shift - (odds(share) - odds(prior)))).toBeLessThan(0.2);
  });

  test('moved by it, what is taken for a fault is one as often as it is said to be', () => {
    const [share, prior] = [0.02, 0.3];
    const list = Array.from({ length: 40000 }, () => {
      const fault = random() < share;
      return { fault, logit: 3 * (gauss() + (fault ? 1.5 : -1.5)) + odds(prior) };
    });
    const shift = prevalenceShift(
      list.map((l) => l.logit),
      prior,
    );
    const rightOf = (moved: number) => {
      const taken = list.filter((l) => l.logit + moved > 0);
      return taken.filter((l) => l.fault).length / taken.length;
    };
    expect(rightOf(0)).toBeLessThan(0.35);
    expect(rightOf(shift)).toBeGreaterThan(0.75);
  });

  test('what counts more decides more', () => {
    const list = [...Array.from({ length: 20 }, () => 5), ...Array.from({ length: 980 }, () => -5)];
    const even = prevalenceShift(list, 0.05);
    const weights = list.map((v) => (v > 0 ? 10 : 1));
    // Twenty that count as two hundred: the same as if there were two hundred.
    const many = [...Array.from({ length: 200 }, () => 5), ...Array.from({ length: 980 }, () => -5)];
    expect(prevalenceShift(list, 0.05, weights)).toBeCloseTo(prevalenceShift(many, 0.05), 3);
    expect(prevalenceShift(list, 0.05, weights)).toBeGreaterThan(even + 1);
  });

  test('without a single fault there is no end to the doubt, without anything to look at there is none', () => {
    expect(prevalenceShift(logits(0, 0.05, 3), 0.05)).toBeLessThan(-4);
    expect(prevalenceShift([], 0.05)).toBe(0);
  });
});

describe('the doubt of a picture with few faults', () => {
  const none = Array.from({ length: 1000 }, () => -5);

  test('is none where there are many, and never more than 5', () => {
    expect(doubtOfRare([...Array.from({ length: 500 }, () => 5), ...none], 0.03)).toBeCloseTo(0, 9);
    expect(doubtOfRare(none, 0.03)).toBe(-5);
    expect(doubtOfRare([], 0.03)).toBeCloseTo(0, 9);
  });

  test('is small where they are a little rarer, and grows faster than their rarity', () => {
    const [rare, rarer] = [0.02, 0.005].map((share) => logits(share, 0.05));
    const shifts = [rare, rarer].map((list) => prevalenceShift(list, 0.05));
    const doubts = [rare, rarer].map((list) => doubtOfRare(list, 0.05));
    doubts.forEach((d, i) => expect(d).toBeCloseTo(-(shifts[i] ** 2) / 7.5, 9));
    expect(doubts[1] / doubts[0]).toBeGreaterThan(1.5 * (shifts[1] / shifts[0]));
  });
});
