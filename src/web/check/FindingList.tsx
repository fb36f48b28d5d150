import { useMemo } from 'react';
import type { PictureState } from '../../contract/api.ts';
import { FINDING_KINDS, type FindingKind } from '../../core/check/finding.ts';
import { FINDING_WORDS } from '../../core/check/words.ts';
import type { Viewing } from '../../core/frame/visibility.ts';
import { count, plural } from '../lib/format.ts';
import { Button } from '../ui/controls.tsx';
import type { Checked, Told } from './told.ts';

/** Findings of one kind. */
export interface Group {
  kind: FindingKind;
  list: Told[];
}

/** What would be seen, by kind, the worst first. */
export const useGroups = (seen: readonly Told[] | undefined): Group[] =>
  useMemo(
    () =>
      FINDING_KINDS.map((kind) => ({ kind, list: seen?.filter((t) => t.kind === kind) ?? [] }))
        .filter((g) => g.list.length > 0)
        .sort((a, b) => b.list[0].severity - a.list[0].severity),
    [seen],
  );

/** A finding as a row of the list. */
function Row({ told, on, onTake }: { told: Told; on: boolean; onTake(): void }) {
  const { kind, fault, severity, figure, unit } = told;
  return (
    <li>
      <button aria-current={on} onClick={onTake}>
        <span>
          {FINDING_WORDS[kind].short}
          {fault && ` · fault ${fault.number}`}
        </span>
        <span className="bar" role="img" aria-label={`${Math.round(100 * severity)} of 100 visible`}>
          <i style={{ width: `${100 * severity}%` }} />
        </span>
        <span className="figure mono">
          {figure} {unit}
        </span>
      </button>
    </li>
  );
}

/** The findings of a picture, worst first, and how far it has come. */
export function FindingList({
  state,
  checked,
  groups,
  viewing: { longSideMm, distanceMm },
  told,
  faintShown,
  onFaint,
  onTake: take,
  whole,
  onWhole,
}: {
  state: PictureState;
  checked: Checked;
  groups: readonly Group[];
  viewing: Viewing;
  told: Told | undefined;
  faintShown: boolean;
  onFaint(shown: boolean): void;
  onTake(told: Told): void;
  /** the whole picture is looked at, not one finding */
  whole: boolean;
  onWhole(): void;
}) {
  return (
    <nav className="list" aria-label="Findings">
      <header>
        <h1 style={{ fontSize: 16 }}>
          {checked.seen.length
            ? `${count(checked.seen.length)} would be seen`
            : state.document.repairs.length
              ? 'Nothing would be seen'
              : 'Nothing to check yet'}
        </h1>
        <p className="quiet" role="status">
          {checked.waiting > 0
            ? `${plural(checked.waiting, 'repair')} still being measured`
            : `${plural(state.document.repairs.length, 'repair')} measured · ${Math.round(longSideMm)} mm wide, seen from ${Math.round(distanceMm)} mm`}
        </p>
        <Button kind={whole ? 'main' : 'plain'} onPress={onWhole}>
          Whole picture
        </Button>
      </header>
      {groups.map(({ kind, list }) => (
        <section key={kind} aria-label={FINDING_WORDS[kind].group}>
          <h2>
            {FINDING_WORDS[kind].group} · {list.length}
          </h2>
          <ol>
            {list.map((t) => (
              <Row key={t.key} told={t} on={!whole && t === told} onTake={() => take(t)} />
            ))}
          </ol>
        </section>
      ))}
      {checked.accepted.length > 0 && (
        <section aria-label="Accepted as they are">
          <h2>Accepted as they are · {checked.accepted.length}</h2>
          <ol>
            {checked.accepted.map((t) => (
              <Row key={t.key} told={t} on={!whole && t === told} onTake={() => take(t)} />
            ))}
          </ol>
        </section>
      )}
      {checked.faint.length > 0 && (
        <section aria-label="Hardly to be seen">
          <h2>
            <Button kind="quiet" aria-expanded={faintShown} onPress={() => onFaint(!faintShown)}>
              {faintShown ? 'Hide' : 'Show'} {count(checked.faint.length)} hardly to be seen
            </Button>
          </h2>
          {faintShown && (
            <ol>
              {checked.faint.map((t) => (
                <Row key={t.key} told={t} on={!whole && t === told} onTake={() => take(t)} />
              ))}
            </ol>
          )}
        </section>
      )}
    </nav>
  );
}
