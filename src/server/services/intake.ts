import { checkFile } from '../../codec/decode.ts';
import type { Change, Fault } from '../../contract/document.ts';
import type { GivenLayer } from '../../codec/decoded.ts';
import { operationsOf } from '../../document/operations.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import type { RunOptions } from '../work/pool.ts';
import type { JoinedFrom } from '../../contract/studio.ts';
import type { Shape } from '../../core/mask/shapes.ts';
import { newFault } from '../../document/edits/faults.ts';
import { newLayer } from '../../document/edits/layers.ts';

/** The layers that came with a file as repair layers, each with one repair: its pixels. */
function givenRows(layers: GivenLayer[]): Change[] {
  const rows: Change[] = [];
  const document = { faults: [], layers: [] as ReturnType<typeof newLayer>[], repairs: [], steps: [] };
  layers.forEach(({ name, opacity, visible, patch }, index) => {
    const layer = { ...newLayer(document, name), opacity, visible };
    document.layers.push(layer);
    const { x, y, width, height } = patch;
    const chosen = { id: newId(), spec: { method: 'given' as const, index, box: { x, y, width, height } } };
    const repair = {
      id: newId(),
      layerId: layer.id,
      order: index + 1,
      faultIds: [],
      tries: [chosen],
      chosen: chosen.id,
      strength: 1,
      visible: true,
    };
    rows.push({ kind: 'layer', id: layer.id, before: null, after: layer });
    rows.push({ kind: 'repair', id: repair.id, before: null, after: repair });
  });
  return rows;
}

/** What a picture that was joined comes with beside its file. */
interface JoinedParts {
  from: JoinedFrom;
  /** where no frame shows anything */
  gaps: Shape[];
}

/** px over which the cover of a gap falls off, beside what it holds of the picture. */
const GAP_FEATHER = 2;

/** Gaps of a picture that was joined, as faults; their shapes hold all that is to be filled. */
function gapRows({ gaps, from: { account } }: JoinedParts): Change[] {
  const document = { faults: [] as Fault[], layers: [], repairs: [], steps: [] };
  for (const shape of gaps) {
    const fault = newFault(document, [shape], 'gap', { x: 0, y: 0, width: account.width, height: account.height });
    document.faults.push({ ...fault, margin: 0, feather: GAP_FEATHER });
  }
  return document.faults.map((after) => ({ kind: 'fault', id: after.id, before: null, after }));
}

/** Takes the file at `path` in as a picture of a job, with the layers it has. @throws Refused when it is none */
export async function takeIn(
  { pool, store, limits }: Pick<Studio, 'pool' | 'store' | 'limits'>,
  jobId: string,
  name: string,
  path: string,
  options: RunOptions = {},
  joined: JoinedParts | null = null,
): Promise<string> {
  // What cannot be taken in is refused at once, not when a thread is free to decode it.
  await checkFile(path, limits);
  const { facts, layers } = await pool.run(
    'open',
    { path, fileName: name, limits },
    { heavy: true, soon: true, ...options },
  );
  const rows = [...givenRows(layers), ...(joined ? gapRows(joined) : [])];
  return store.importPicture(jobId, name, facts!, path, operationsOf(rows), joined?.from);
}
