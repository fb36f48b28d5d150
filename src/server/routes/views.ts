import { tileViewSchema } from '../../contract/views.ts';
import { Router } from 'express';
import { z } from 'zod';
import { pixelsQuerySchema, poseRequestSchema, proposalRequestSchema } from '../../contract/api.ts';
import { TILE_SIDE } from '../../core/raster/pyramid.ts';
import { newId } from '../../contract/ids.ts';
import type { Studio } from '../studio.ts';
import { idOf, sendPicture, signalOf } from './requests.ts';

const whole = z.coerce.number().int().min(0).max(1_000_000);
const version = z.string().max(60).optional();
const place = z.coerce.number().int().min(-200_000).max(1_000_000);
const boxOf = (side: z.ZodType<number>) => ({ x: place, y: place, width: side, height: side });
/** A rendering by its hash, or the sketch of a try. */
const keySchema = z.object({ key: z.string().regex(/^([0-9a-f]{64}|sketch-[a-z0-9]{8,40})$/) });
const tileSchema = z.object({
  view: tileViewSchema,
  level: whole,
  x: whole,
  y: whole,
});
const closeUpSchema = z.object({
  ...z.object(boxOf(whole.min(1))).partial().shape,
  side: whole.min(16).max(1024),
  view: z.enum(['repaired', 'original']).default('repaired'),
  v: version,
});
const tryViewSchema = z.object({ ...boxOf(whole.min(1).max(1024)), v: version });

/** What people see of a picture, and what is asked of its pixels. */
export function viewRoutes({ views, tasks }: Studio): Router {
  const routes = Router();
  routes.get('/pictures/:id/tiles/:view/:version/:level/:x/:y', async (req, res) => {
    const { view, level, x, y } = tileSchema.parse(req.params);
    sendPicture(res, await views.tile(idOf(req), view, level, x, y, TILE_SIDE), true);
  });
  routes.get('/pictures/:id/close-up', async (req, res) => {
    const { side, view, v, x, y, width, height } = closeUpSchema.parse(req.query);
    // Without a box all of the picture.
    const box = width && height ? { x: x ?? 0, y: y ?? 0, width, height } : null;
    sendPicture(res, await views.closeUp(idOf(req), box, side, view), v);
  });
  routes.get('/pictures/:id/renderings/:key/close-up', async (req, res) => {
    const { v, ...box } = tryViewSchema.parse(req.query);
    sendPicture(res, await views.tryView(idOf(req), box, keySchema.parse(req.params).key), v);
  });
  routes.get('/pictures/:id/renderings/:key', async (req, res) => {
    const { bytes } = await views.patchView(idOf(req), keySchema.parse(req.params).key);
    sendPicture(res, { bytes, type: 'image/png' }, true);
  });
  routes.get('/pictures/:id/attention', async (req, res) => {
    const { v } = z.object({ v: version }).parse(req.query);
    const { bytes } = await views.attention(idOf(req), { signal: signalOf(res) });
    sendPicture(res, { bytes, type: 'image/png' }, v);
  });
  // Bare samples, interleaved, 16-bit ones little-endian: what a stroke's preview computes with.
  routes.get('/pictures/:id/pixels', async (req, res) => {
    const { layer, repair, ...box } = pixelsQuerySchema.parse(req.query);
    const { width, height, channels, depth, data } = await views.beneath(idOf(req), box, { layer, repair });
    res
      .set({ 'Cache-Control': 'no-store', 'X-Raster': JSON.stringify({ width, height, channels, depth }) })
      .type('application/octet-stream')
      .send(Buffer.from(data.buffer, data.byteOffset, data.byteLength));
  });
  routes.post('/pictures/:id/proposal', async (req, res) => {
    const request = proposalRequestSchema.parse(req.body);
    res.json(await views.propose(idOf(req), request, { signal: signalOf(res) }));
  });
  routes.post('/pictures/:id/pose', async (req, res) => {
    const request = poseRequestSchema.parse(req.body);
    const id = idOf(req);
    const solve = (signal: AbortSignal) => views.solvePose(id, request, { signal });
    res.json(await tasks.run(id, 'Solve the pose', solve, newId(), signalOf(res)));
  });
  return routes;
}
