export { seed, measure, searchPass, searchAll, voteMean, voteBest } from './search';
export { accumulate, relax } from './predict';

/** First byte of linear memory that the host may use. */
export function heapBase(): usize {
  return __heap_base;
}
