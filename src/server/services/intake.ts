import { checkFile } from '../../codec/decode.ts';
import type { Change } from '../../contract/document.ts';
import type { GivenLayer } from '../../codec/decoded.ts';
import { operationsOf } from '../../document/operations.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import type { RunOptions } from '../work/pool.ts';
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

/** Takes the file at `path` in as a picture of a job, with the layers it has. @throws Refused when it is none */
export async function takeIn(
  { pool, store, limits }: Pick<Studio, 'pool' | 'store' | 'limits'>,
  jobId: string,
  name: string,
  path: string,
  options: RunOptions = {},
): Promise<string> {
  // What cannot be taken in is refused at once, not when a thread is free to decode it.
  await checkFile(path, limits);
  const { facts, layers } = await pool.run(
    'open',
    { path, fileName: name, limits },
    { heavy: true, soon: true, ...options },
  );
  return store.importPicture(jobId, name, facts!, path, operationsOf(givenRows(layers)));
}
