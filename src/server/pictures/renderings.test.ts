import { createRaster } from '../../core/raster/raster.ts';
import { Background } from '../background/background.ts';
import { Events } from '../background/events.ts';
import { TaskTracker } from '../background/task-tracker.ts';
import { Pictures } from './pictures.ts';
import { Renderings } from './renderings.ts';

/** Pictures over a store and a pool that hold one small picture without repairs, with room for so many bytes of pixels. */
function opened(room: number) {
  const openings: string[] = [];
  const store = {
    picture: async () => ({ id: 'p', name: 'p.png', original: 'hash', revision: 0 }),
    readBlob: async () => new Uint8Array(),
    rendersOf: async () => [],
    document: async () => ({ faults: [], layers: [], repairs: [], steps: [] }),
    steps: async () => ({ undo: null, redo: null }),
  };
  const pool = {
    run: async (kind: string) => {
      openings.push(kind);
      if (openings.length > 50) throw new Error('It is opened again and again.');
      return { raster: createRaster(8, 8, 3, 8), pyramid: [], facts: null, icc: null, layers: [] };
    },
  };
  const events = new Events();
  const pictures = new Pictures(store as never, pool as never, events, {} as never, room);
  const background = new Background();
  return { openings, renderings: new Renderings(pictures, new TaskTracker(events), background), background };
}

test('what waits for renderings is answered, also where a picture is let go as soon as nobody is at work with it', async () => {
  const { openings, renderings, background } = opened(1);
  renderings.settle('p');
  await renderings.idle('p');
  await background.ended();
  expect(openings.length).toBeLessThan(4);
});
