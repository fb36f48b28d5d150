import { count } from '../lib/format.ts';
import { Button } from '../ui/controls.tsx';
import { nameOf, shownOf } from './groups.ts';
import type { Surveying } from './useSurveying.ts';

/** What was found, by kind, with how many are left. */
export function Groups({ surveying }: { surveying: Surveying }) {
  const { survey, task, busy, start, groups, group, level, taken, setKind, setCurrent } = surveying;
  return (
    <section className="groups" aria-label="What was found">
      <header>
        <Button kind={survey ? 'plain' : 'main'} isDisabled={busy || !!task} onPress={() => void start()}>
          {task ? `Surveying… ${Math.round(task.done * 100)} %` : survey ? 'Survey again' : 'Survey'}
        </Button>
      </header>
      <ul>
        {groups.map((g) => {
          const list = shownOf(g, level(g.kind), taken);
          const left = list.filter((f) => !f.rejected && !taken[f.id]).length;
          return (
            <li key={g.kind}>
              <button
                aria-pressed={g === group}
                onClick={() => {
                  setKind(g.kind);
                  setCurrent(null);
                }}
              >
                <span>{nameOf(g.kind)}</span>
                <span className="mono quiet">
                  {left < list.length ? `${count(left)} of ${count(list.length)}` : count(left)}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
