import { Router } from 'express';
import { VIEWS } from '../../contract/addresses.ts';
import { newId } from '../../contract/ids.ts';
import { TILE_SIDE } from '../../core/raster/pyramid.ts';
import type { Studio } from '../studio.ts';
import { sendPicture, signalOf } from './requests.ts';
import { serve } from './serve.ts';

/** What people see of a picture, and what is asked of its pixels. */
export function viewRoutes({ views, tasks }: Studio): Router {
  const routes = Router();
  serve(routes, VIEWS.tile, async ({ params: { id, view, level, x, y }, res }) =>
    sendPicture(res, await views.tile(id, view, level, x, y, TILE_SIDE), true),
  );
  serve(
    routes,
    VIEWS.closeUp,
    async ({ params: { id }, query: { side, view, v, x = 0, y = 0, width, height }, res }) => {
      const box = width && height ? { x, y, width, height } : null;
      sendPicture(res, await views.closeUp(id, box, side, view), v);
    },
  );
  serve(routes, VIEWS.tryCloseUp, async ({ params: { id, key }, query: { v, ...box }, res }) =>
    sendPicture(res, await views.tryView(id, box, key), v),
  );
  serve(routes, VIEWS.rendering, async ({ params: { id, key }, res }) => {
    const { bytes } = await views.patchView(id, key);
    sendPicture(res, { bytes, type: 'image/png' }, true);
  });
  serve(routes, VIEWS.attention, async ({ params: { id }, query: { v }, res }) => {
    const { bytes } = await views.attention(id, { signal: signalOf(res) });
    sendPicture(res, { bytes, type: 'image/png' }, v);
  });
  serve(routes, VIEWS.lean, ({ params: { id }, res }) => views.lean(id, { signal: signalOf(res) }));
  serve(routes, VIEWS.way, ({ params: { id }, body, res }) => views.way(id, body, { signal: signalOf(res) }));
  serve(routes, VIEWS.subjectProposal, ({ params: { id }, res }) =>
    views.subjectProposal(id, { signal: signalOf(res) }),
  );
  serve(routes, VIEWS.subjectEdge, ({ params: { id }, body, res }) =>
    views.subjectEdge(id, body, { signal: signalOf(res) }),
  );
  serve(routes, VIEWS.pixels, async ({ params: { id }, query: { layer, repair, ...box }, res }) => {
    const { width, height, channels, depth, data } = await views.beneath(id, box, { layer, repair });
    res
      .set({ 'Cache-Control': 'no-store', 'X-Raster': JSON.stringify({ width, height, channels, depth }) })
      .type('application/octet-stream')
      .send(Buffer.from(data.buffer, data.byteOffset, data.byteLength));
  });
  serve(routes, VIEWS.values, ({ params: { id }, query: { x, y } }) => views.values(id, [x, y]));
  serve(routes, VIEWS.proposal, ({ params: { id }, body, res }) => views.propose(id, body, { signal: signalOf(res) }));
  serve(routes, VIEWS.pose, ({ params: { id }, body, res }) => {
    const solve = (signal: AbortSignal) => views.solvePose(id, body, { signal });
    return tasks.run(id, 'Solve the pose', solve, newId(), signalOf(res));
  });
  return routes;
}
