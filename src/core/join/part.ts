import { ABOVE, BELOW, LEFT, MaxFlow, RIGHT } from '../kernels/max-flow.ts';

/** What a unit of costs is in the graph, and what no cut goes through. */
const UNIT = 16;
const NEVER = 1 << 24;
/** Cost at and beyond which a place says nothing: not both frames show it. */
const OUTSIDE = 1e4;

/**
 * Parts what two pictures both show by a minimum cut: where one of them goes on alone it is taken beside, what is wished is kept to.
 * @param costs of going between both, for each px; at least {@link OUTSIDE} where not both are
 * @param wishes 1 the second is to be taken, 2 the first is, 0 neither is wished
 * @returns 1 where the second is taken
 * Source: Kwatra et al., "Graphcut Textures", 2003.
 */
export function partedByCut(
  costs: Float32Array,
  first: Float32Array,
  second: Float32Array,
  width: number,
  wishes: Uint8Array,
): Uint8Array {
  const nodes: number[] = [];
  const nodeAt = new Int32Array(costs.length).fill(-1);
  for (let i = 0; i < costs.length; i++)
    if (costs[i] < OUTSIDE) {
      nodeAt[i] = nodes.length;
      nodes.push(i);
    }
  const out = new Uint8Array(costs.length);
  if (!nodes.length) return out;
  const flow = new MaxFlow();
  flow.begin(nodes.length);
  const { neighbours, capacity, terminal } = flow;
  const shows = (plane: Float32Array, i: number) => plane[i] === plane[i];
  nodes.forEach((i, n) => {
    const x = i % width;
    const beside = [
      x + 1 < width ? i + 1 : -1,
      x > 0 ? i - 1 : -1,
      i + width < costs.length ? i + width : -1,
      i - width,
    ];
    let [own, other] = [wishes[i] === 1, wishes[i] === 2];
    beside.forEach((j, k) => {
      if (j < 0) return;
      const m = nodeAt[j];
      if (m < 0) {
        own ||= wishes[i] === 0 && shows(second, j) && !shows(first, j);
        other ||= wishes[i] === 0 && shows(first, j) && !shows(second, j);
        return;
      }
      const direction = [RIGHT, LEFT, BELOW, ABOVE][k];
      neighbours[4 * n + direction] = m;
      capacity[4 * n + direction] = Math.round(UNIT * (costs[i] + costs[j]));
    });
    terminal[n] = own === other ? 0 : own ? NEVER : -NEVER;
  });
  flow.cut();
  nodes.forEach((i, n) => {
    if (flow.side(n) === 'source') out[i] = 1;
  });
  return out;
}
