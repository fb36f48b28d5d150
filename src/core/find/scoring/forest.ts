/** One balanced decision tree: nodes in the order of a heap, a node without a feature sends everything to its left. */
export interface Tree {
  feature: number[];
  threshold: number[];
  leaf: number[];
}

/** Boosted decision trees: the leaves an example falls into add up to a logit. */
export interface Forest {
  bias: number;
  depth: number;
  trees: Tree[];
}

/** The logit a forest gives an example. Source: Friedman, "Greedy function approximation", 2001. */
export function logitOf(forest: Forest, x: ArrayLike<number>): number {
  const inner = 2 ** forest.depth - 1;
  let sum = forest.bias;
  for (const { feature, threshold, leaf } of forest.trees) {
    let k = 0;
    while (k < inner) k = 2 * k + (feature[k] >= 0 && x[feature[k]] > threshold[k] ? 2 : 1);
    sum += leaf[k - inner];
  }
  return sum;
}

/** Reads a forest as `bench/` writes it: the bias, then a line a tree, its nodes `feature:threshold` and its leaves. */
export function readForest([first, ...lines]: readonly string[]): Forest {
  const trees = lines.map((line): Tree => {
    const [nodes, leaves] = line.split('|');
    const pairs = nodes.split(' ').map((node) => node.split(':').map(Number));
    return {
      feature: pairs.map((p) => p[0]),
      threshold: pairs.map((p) => p[1]),
      leaf: leaves.split(' ').map(Number),
    };
  });
  return { bias: Number(first), depth: Math.log2(trees[0].leaf.length), trees };
}
