import styled from 'styled-components';
import type { JoinedFrom } from '../../contract/studio.ts';
import { listed } from '../../core/frame/words.ts';
import { stayedOutInWords } from '../../core/join/account.ts';
import { framesUsed } from '../../record/build.ts';
import { count } from '../lib/format.ts';
import { theme } from '../theme.ts';

const Words = styled.p`
  border-left: 3px solid ${theme.accent};
  padding-left: 10px;
  margin: 0 0 12px;
  font-size: 13px;
`;

/** What a picture was joined from, in words: which frames, how they were laid, how well they agree, and where to look. */
export function joinedInWords(joined: JoinedFrom): string[] {
  const { frames, account } = joined;
  const { projection, error, whole, width, height, cuts } = account;
  const stayed = stayedOutInWords(
    frames.map((f) => f.name),
    account,
  );
  const ragged = whole.width !== width || whole.height !== height;
  return [
    `Joined from ${listed(framesUsed(joined))}, laid ${projection === 'flat' ? 'flat' : 'on a cylinder'}; what they share agrees to ${error.toFixed(2)} px.`,
    ...(stayed ? [stayed] : []),
    ...(ragged
      ? [
          `Its ragged edges are marked as gaps: fill them at the bench, or cut to ${count(whole.width)} × ${count(whole.height)} px on Frame.`,
        ]
      : []),
    ...cuts.map(
      ({ x, y, frames: [a, b] }) =>
        `Something moved between ${frames[a].name} and ${frames[b].name}: the join runs through it at ${count(x)}, ${count(y)}. Look there.`,
    ),
  ];
}

/** What a picture was joined from. */
export const JoinedFrames = ({ joined }: { joined: JoinedFrom }) => <Words>{joinedInWords(joined).join(' ')}</Words>;
