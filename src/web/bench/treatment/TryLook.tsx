import { useEffect, useState } from 'react';
import styled from 'styled-components';
import type { Repair } from '../../../contract/document.ts';
import { VIEWS } from '../../../contract/addresses.ts';
import { addressOf } from '../../../contract/endpoint.ts';
import type { Finding } from '../../../core/check/finding.ts';
import { FINDING_WORDS } from '../../../core/check/words.ts';
import { boxAround } from '../../../core/raster/raster.ts';
import { pieceOf } from '../../lib/api.ts';
import { canvasOfState } from '../../lib/canvas.ts';
import { theme } from '../../theme.ts';
import { Button, Select } from '../../ui/controls.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { useBench } from '../useBench.ts';

/** What is looked at: a try, and a place where something would be seen in it. */
export interface Look {
  tryId: string;
  finding: Finding | null;
}

const Pair = styled.div`
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px;
  figure {
    margin: 0;
    display: grid;
    gap: 6px;
  }
  .look {
    aspect-ratio: 1;
    background: #808080;
    overflow: hidden;
    display: grid;
    place-items: center;
  }
  img {
    width: 100%;
    display: block;
  }
`;

/** px of the picture that are shown across, one to a px of the screen. */
const ACROSS = 346;
const BEFORE = 'before';

/** A place of a try at 100 %, beside the picture as it came or another try, without any mark. */
export function TryLook({ repair, look, onClose }: { repair: Repair; look: Look | null; onClose(): void }) {
  const { state, treating } = useBench();
  const [sides, setSides] = useState<[string, string]>([BEFORE, repair.chosen]);
  const tryId = look?.tryId;
  useEffect(() => {
    if (tryId) setSides([BEFORE, tryId]);
  }, [tryId]);
  if (!look) return null;
  const status = state.statuses.find((s) => s.id === repair.id);
  const ready = repair.tries.flatMap((t, n) => (status?.tries[t.id]?.ready ? [{ id: t.id, n: n + 1 }] : []));
  const box = look.finding?.box ?? status?.tries[look.tryId]?.box;
  if (!box) return null;
  const canvas = canvasOfState(state);
  const side = Math.min(ACROSS, canvas.width, canvas.height);
  const piece = boxAround([box.x + box.width / 2, box.y + box.height / 2], { width: side, height: side }, canvas);
  const names = { id: state.picture.id };
  const asked = pieceOf(piece, state.pixels);
  const imageOf = (of: string) =>
    of === BEFORE
      ? addressOf(VIEWS.closeUp, names, { ...asked, side: ACROSS, view: 'original' })
      : addressOf(VIEWS.tryCloseUp, { ...names, key: status!.tries[of].key }, asked);
  const { finding } = look;
  return (
    <Dialog
      title={finding ? `Here: ${FINDING_WORDS[finding.kind].short}` : 'Tries side by side'}
      isOpen
      onClose={onClose}
      wide
    >
      {finding && (
        <p className="quiet">
          {finding.figure} {finding.unit}, at {Math.round(box.x)}, {Math.round(box.y)} px. Shown at 100 %.
        </p>
      )}
      <Pair>
        {([0, 1] as const).map((k) => (
          <figure key={k}>
            <Select
              aria-label={k ? 'Right side' : 'Left side'}
              value={sides[k]}
              onChange={(e) => setSides((now) => (k ? [now[0], e.target.value] : [e.target.value, now[1]]))}
            >
              <option value={BEFORE}>As it came</option>
              {ready.map((t) => (
                <option key={t.id} value={t.id}>
                  Try {t.n}
                  {t.id === repair.chosen ? ', in use' : ''}
                </option>
              ))}
            </Select>
            <div className="look">
              <img src={imageOf(sides[k])} alt={sides[k] === BEFORE ? 'The place as it came' : 'The place in a try'} />
            </div>
          </figure>
        ))}
      </Pair>
      <div style={{ display: 'flex', gap: 8, justifyContent: 'end', color: theme.ink }}>
        {sides[1] !== BEFORE && sides[1] !== repair.chosen && (
          <Button
            onPress={() => {
              treating.setRepair({ chosen: sides[1] });
              onClose();
            }}
          >
            Use the right one
          </Button>
        )}
        <Button kind="main" onPress={onClose}>
          Close
        </Button>
      </div>
    </Dialog>
  );
}
