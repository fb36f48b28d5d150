export { seed, measure, searchPass, searchAll, voteMean, voteBest, offsetPass } from './search';
export { accumulate, relax } from './predict';
export { flowBytes, flowOpen, flowCut, flowSide, layoutOpen, layoutEnergy, expand } from './flow';
export { blurPlane, boxMeanPlane } from './planes';
export { joinCosts, joinMeans, joinBest } from './joins';
export { toneSweeps } from './tone';
export { fieldOpen, ringCosts, moveCosts } from './moves';

/** First byte of linear memory that the host may use. */
export function heapBase(): usize {
  return __heap_base;
}
