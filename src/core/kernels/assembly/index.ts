export { seed, measure, searchPass, searchAll, voteMean, voteBest } from './search';
export { accumulate, relax } from './predict';
export { flowBytes, flowOpen, flowCut, flowSide } from './flow';
export { layoutOpen, layoutEnergy, expand } from './expansion';
export { blurPlane, boxMeanPlane } from './planes';
export { joinCosts, joinMeans, joinBest } from './joins';
export { toneSweeps } from './tone';
export { cubicAt } from './cubic';
export {
  poissonOpen, poissonRelax, poissonResidual, poissonRestrict, poissonProlong, poissonDot, poissonApply, poissonStep, poissonTurn,
} from './poisson';
export { fieldOpen } from './field';
export { ringCosts, moveCosts } from './moves';
export { alikeOpen, alikeWith, alikeScales, alikeBeside, alikeCorrelation, alikeVaries } from './alike';

/** First byte of linear memory that the host may use. */
export function heapBase(): usize {
  return __heap_base;
}
