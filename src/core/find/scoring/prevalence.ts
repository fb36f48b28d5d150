import { sigmoid } from '../find.ts';

/** Rounds after which the estimate stands, and the change of a logarithm that ends it before. */
const ROUNDS = 60;
const SETTLED = 1e-3;
/** Nothing is estimated rarer than this. */
const RAREST = 1e-7;

/**
 * By how much the logits of a classifier have to be moved for one picture, since faults are rarer or more frequent in
 * it than in what the classifier was fitted on. How frequent they are is estimated from the logits themselves by
 * expectation and maximisation: a picture with hardly anything sure in it makes all that is less sure unlikely.
 * @param logits of everything that was looked at in the picture
 * @param prior share of faults in what the classifier was fitted on, 0 to 1
 * @param weights how much each of them counts; all the same when left out
 * Source: Saerens, Latinne and Decaestecker, "Adjusting the outputs of a classifier to new a priori probabilities", 2002.
 */
export function prevalenceShift(logits: ArrayLike<number>, prior: number, weights?: ArrayLike<number>): number {
  if (!logits.length) return 0;
  const odds = (p: number) => Math.log(p / (1 - p));
  let now = prior;
  for (let round = 0; round < ROUNDS; round++) {
    const shift = odds(now) - odds(prior);
    let [sum, all] = [0, 0];
    for (let i = 0; i < logits.length; i++) {
      const weight = weights ? weights[i] : 1;
      sum += weight * sigmoid(logits[i] + shift);
      all += weight;
    }
    const next = Math.min(1 - RAREST, Math.max(RAREST, sum / all));
    const settled = Math.abs(Math.log(next / now)) < SETTLED;
    now = next;
    if (settled) break;
  }
  return odds(now) - odds(prior);
}

/**
 * From how much in the logit on the doubt of a picture with few faults counts in full, and the most that it may; less of
 * it counts by its share of that. On a picture unlike those fitted on a classifier is less sure of faults, which then
 * seem rarer than they are.
 */
const FULL = 7.5;
const MOST = 5;

/**
 * What a picture with few faults adds to the logit of each of its candidates, 0 or less; see {@link prevalenceShift} for
 * what it takes. A picture with many faults makes nothing surer.
 */
export function doubtOfRare(logits: ArrayLike<number>, prior: number, weights?: ArrayLike<number>): number {
  const shift = Math.min(0, prevalenceShift(logits, prior, weights));
  return Math.max(-MOST, shift * Math.min(1, -shift / FULL));
}
