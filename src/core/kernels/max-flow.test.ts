import { MaxFlow } from './max-flow.ts';

const randomiser = (seed: number) => {
  let state = seed;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 4294967296;
};

describe('minimum cuts', () => {
  test('cost as little as the best of all divisions, and the sides are one of those', () => {
    const random = randomiser(3);
    const flow = new MaxFlow();
    const [width, height] = [3, 4];
    const n = width * height;
    for (let round = 0; round < 60; round++) {
      flow.begin(n);
      for (let i = 0; i < n; i++) {
        const x = i % width;
        if (x + 1 < width) [flow.neighbours[4 * i], flow.neighbours[4 * (i + 1) + 1]] = [i + 1, i];
        if (i + width < n) [flow.neighbours[4 * i + 2], flow.neighbours[4 * (i + width) + 3]] = [i + width, i];
        flow.terminal[i] = random() < 0.3 ? 0 : Math.floor((random() - 0.5) * 60);
        for (let k = 0; k < 4; k++) flow.capacity[4 * i + k] = Math.floor(random() * 20);
      }
      const [edges, caps, ends] = [flow.neighbours.slice(), flow.capacity.slice(), flow.terminal.slice()];
      const costOf = (sink: (i: number) => boolean) => {
        let cost = 0;
        for (let i = 0; i < n; i++) {
          cost += sink(i) ? Math.max(0, ends[i]) : Math.max(0, -ends[i]);
          for (let k = 0; k < 4; k++) {
            const j = edges[4 * i + k];
            if (j >= 0 && !sink(i) && sink(j)) cost += caps[4 * i + k];
          }
        }
        return cost;
      };
      let best = Infinity;
      for (let all = 0; all < 1 << n; all++)
        best = Math.min(
          best,
          costOf((i) => (all >> i) % 2 === 1),
        );
      expect(flow.cut()).toBe(best);
      expect(costOf((i) => flow.side(i) === 'sink')).toBe(best);
    }
  });
});
