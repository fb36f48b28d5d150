import { divides, fieldOf } from '../../core/repair/registry.ts';
import type { RepairSpec } from '../../core/repair/spec.ts';
import type { Pool, RunOptions } from '../work/pool.ts';
import type { TaskInput, TaskOutput } from '../work/kinds.ts';
import { specText } from './keys.ts';

/** Share of the progress that what is done ahead stands for. */
const AHEAD = 0.8;

type Input = Omit<TaskInput<'render'>, 'spec' | 'pieces'> & { spec: RepairSpec };

/** Renders a repair; what can be done ahead is divided among as many threads as there are cores. The bytes are the same either way. */
export async function renderInPool(
  pool: Pool,
  { given, spec, ...rest }: Input,
  { onProgress, ...options }: RunOptions,
): Promise<TaskOutput<'render'>> {
  const work = { ...rest, spec: specText(spec) };
  if (pool.cores < 2 || !divides(spec, fieldOf(spec, rest.original)))
    return pool.run('render', { ...work, given }, { ...options, onProgress });
  const done = new Array<number>(pool.cores).fill(0);
  const tell = (index: number) => (f: number) => {
    done[index] = f;
    onProgress?.((AHEAD * done.reduce((a, b) => a + b, 0)) / done.length);
  };
  const shares = await Promise.all(
    done.map((_, index) =>
      pool.run('ahead', { ...work, share: { index, of: done.length } }, { ...options, onProgress: tell(index) }),
    ),
  );
  return pool.run(
    'render',
    { ...work, given, pieces: shares.flatMap((s) => s.pieces) },
    { ...options, onProgress: (f) => onProgress?.(AHEAD + (1 - AHEAD) * f) },
  );
}
