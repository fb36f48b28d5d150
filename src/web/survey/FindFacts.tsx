import type { SurveyFind } from '../../contract/survey.ts';
import type { Visibility } from '../../core/frame/visibility.ts';
import { count, millimetres } from '../lib/format.ts';

/** What was measured on a find; what each figure means stands beside it. */
export function FindFacts({ find, seen }: { find: SurveyFind; seen: Visibility }) {
  const rows: Array<[term: string, figure: string, means?: string]> = [
    ['Across', `${Math.round(find.width * 10) / 10} px`],
    ...(find.length > 2 * find.width ? [['Long', `${count(find.length)} px`] as [string, string]] : []),
    ['At delivery', `${millimetres(seen.mm)} · ${seen.arc.toFixed(1)}′`, 'minutes of arc: an eye makes out about 1′'],
    ['Colour difference', `${find.difference.toFixed(1)} ΔE`, '1 is just seen side by side, 10 at a glance'],
    [
      'Seen',
      seen.times < 1 ? 'no' : `${seen.times.toFixed(1)} × threshold`,
      'threshold: the least that an eye makes out at this size and difference',
    ],
    ['Certainty', `${Math.round(find.score * 100)} %`, 'that it is none of the scene'],
  ];
  return (
    <dl>
      {rows.map(([term, figure, means]) => [
        <dt key={term}>
          {term}
          {means && <small>{means}</small>}
        </dt>,
        <dd key={`${term}d`} className="mono">
          {figure}
        </dd>,
      ])}
    </dl>
  );
}
