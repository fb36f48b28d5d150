import { Kernels } from './memory.ts';

/** Directions of the four neighbours; the opposite of `k` is `k ^ 1`. */
export const RIGHT = 0;
export const LEFT = 1;
export const BELOW = 2;
export const ABOVE = 3;

/**
 * Minimum cuts of graphs whose nodes have up to four neighbours, such as pixels.
 *
 * Source: Boykov & Kolmogorov, "An Experimental Comparison of Min-Cut/Max-Flow Algorithms for Energy Minimization in Vision",
 * IEEE PAMI 26, 2004.
 */
export class MaxFlow {
  /** neighbours of node `i` at 4 i + direction, or −1 */
  neighbours: Int32Array = new Int32Array(0);
  /** what the edge from node `i` to its neighbour can carry, at 4 i + direction; whole numbers */
  capacity: Int32Array = new Int32Array(0);
  /** what joins a node to the source (positive) or to the sink (negative) */
  terminal: Int32Array = new Int32Array(0);
  private readonly kernels = new Kernels();
  private readonly start = this.kernels.mark();
  private room = 0;

  /** Begins a graph of so many nodes without edges. */
  begin(nodes: number): void {
    if (nodes > this.room) {
      this.kernels.release(this.start);
      this.room = 2 * nodes;
      this.kernels.reserve(this.kernels.run.flowBytes(this.room));
    }
    const { start, room } = this;
    this.kernels.run.flowOpen(start, room);
    this.neighbours = this.kernels.i32(start, 4 * nodes).fill(-1);
    this.capacity = this.kernels.i32(start + 16 * room, 4 * nodes).fill(0);
    this.terminal = this.kernels.i32(start + 32 * room, nodes).fill(0);
  }

  /** Cuts the graph; its capacities are used up. @returns the flow */
  cut(): number {
    return this.kernels.run.flowCut(this.terminal.length);
  }

  /** The side that a node ended up on; null where both cost the same. */
  side(node: number): 'source' | 'sink' | null {
    const side = this.kernels.run.flowSide(node);
    return side === 1 ? 'source' : side === 2 ? 'sink' : null;
  }
}
