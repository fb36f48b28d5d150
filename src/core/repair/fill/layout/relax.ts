import { Kernels } from '../../../kernels/memory.ts';

const SWEEPS = 240;

/** The covered pixels of a box of pieces. */
export interface Nodes {
  /** place in the box of each node */
  pixels: Int32Array;
  /** node of each pixel of the box, −1 where there is none */
  node: Int32Array;
  /** of the box */
  width: number;
}

/** What acts on nodes. */
export interface Springs {
  /** weight of the links to the right and downwards, two a node */
  weights: Float32Array;
  /** what the right and the lower one has less: four floats each */
  steps: Float32Array;
  /** total weight of what holds a node */
  held: Float32Array;
  /** weighted sum of what it is held to, four floats a node */
  pulls: Float32Array;
}

/** Over-relaxation of the weighted membrane. @returns four floats a node */
export function relax({ pixels, node, width }: Nodes, { weights, steps, held, pulls }: Springs): Float32Array {
  const count = pixels.length;
  const kernels = new Kernels();
  const put = (values: Float32Array) => {
    const at = kernels.reserve(values.byteLength);
    kernels.f32(at, values.length).set(values);
    return at;
  };
  const [weightsAt, stepsAt, heldAt, pullsAt] = [weights, steps, held, pulls].map(put);
  const valueAt = kernels.reserve(16 * count);
  const linksAt = kernels.reserve(16 * count);
  kernels.f32(valueAt, 4 * count).fill(0);
  const links = kernels.i32(linksAt, 4 * count).fill(-1);
  for (let n = 0; n < count; n++) {
    const i = pixels[n];
    const right = (i % width) + 1 < width ? node[i + 1] : -1;
    const below = i + width < node.length ? node[i + width] : -1;
    links[4 * n] = right;
    links[4 * n + 2] = below;
    if (right >= 0) links[4 * right + 1] = n;
    if (below >= 0) links[4 * below + 3] = n;
  }
  kernels.run.toneSweeps(valueAt, linksAt, weightsAt, stepsAt, heldAt, pullsAt, count, SWEEPS, 1.93);
  return kernels.f32(valueAt, 4 * count).slice();
}
