import type { LaidOut } from './layout/fill-by-layout.ts';
import type { FillStyle } from './settings.ts';

/** What a layout did, in words. */
function layoutReason({ kind, grounds }: LaidOut): string {
  const many = ['no ground', 'one ground', 'two grounds', 'three grounds'][grounds] ?? `${grounds} grounds`;
  switch (kind) {
    case 'guided':
      return 'the drawn edges run on inside, each side is filled by itself.';
    case 'divided':
      return `${many} around; their borders run on inside, each is filled from its own kind.`;
    case 'ground':
      return `${grounds > 1 ? `${many} around, ` : ''}laid out in large pieces, by the tone of the ground.`;
    case 'detail':
      return `${grounds > 1 ? `${many} around, ` : ''}laid out in large pieces, by lines and courses that run on.`;
    case 'woven':
      return `${many} around, woven from many places of its kind.`;
  }
}

/** One sentence on how a region was filled, for the person who has to judge it. */
export function reasonFor(
  style: FillStyle,
  depth: number,
  predicted: number,
  searched: number,
  laidOut: LaidOut | null,
  stretches: number,
): string {
  const width = Math.round(2 * depth);
  const across = `Up to ${width} px across`;
  const layout = !laidOut
    ? `${across}.`
    : stretches > 1
      ? `${across} and long: laid out in ${stretches} stretches, each by what is on both sides of it.`
      : `${across}: ${layoutReason(laidOut)}`;
  const texts: Record<FillStyle, string> = {
    faithful: `At most ${width} px across: predicted from the pixels beside it, grain matched.`,
    smooth: `At most ${width} px across: predicted from the pixels beside it, grain kept low.`,
    straight: `At most ${width} px across: predicted from the pixels beside it, edges carried straight on.`,
    textured: `At most ${width} px across: detail copied from donors close by.`,
    first: layout,
    second: layout,
    third: layout,
    near: `${across}: completed from donors close by.`,
    far: `${across}: completed from donors far around, in larger pieces.`,
    lines: `${across}: lines continued first, then texture.`,
  };
  const both = predicted && searched ? ' Thin parts were predicted, deep parts completed from donors.' : '';
  return texts[style] + both;
}
