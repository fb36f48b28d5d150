import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import express, { type NextFunction, type Request, type Response, type Router } from 'express';
import { z } from 'zod';
import {
  editSchema,
  exportQuerySchema,
  fillRequestSchema,
  pixelsQuerySchema,
  poseRequestSchema,
  proposalRequestSchema,
  workSchema,
  type Refusal,
} from '../../contract/api.ts';
import { idSchema } from '../../contract/document.ts';
import {
  acceptSchema,
  decisionSchema,
  meshRequestSchema,
  surveyRequestSchema,
  traceRequestSchema,
  treatRequestSchema,
} from '../../contract/survey.ts';
import { jobPatchSchema, newJobSchema } from '../../contract/studio.ts';
import { TILE_SIDE } from '../../core/raster/pyramid.ts';
import { Refused } from '../../codec/limits.ts';
import { takeIn } from '../services/intake.ts';
import { acceptFinds, readSurvey, startMesh, startSurvey, traceFault } from '../services/surveys.ts';
import { Once } from '../services/once.ts';
import { newId } from '../store/store.ts';
import type { Studio } from '../studio.ts';

const MEDIA = {
  png: ['image/png', 'png'],
  tiff: ['image/tiff', 'tif'],
  jpeg: ['image/jpeg', 'jpg'],
  ora: ['image/openraster', 'ora'],
  covers: ['application/zip', 'covers.zip'],
} as const;

const FOREVER = 'private, max-age=31536000, immutable';

/** Name under which a request is done only once, however often it comes. */
const nameOf = (req: Request) => z.string().max(64).optional().parse(req.get('Idempotency-Key'));

const id = (req: Request, name = 'id') => idSchema.parse(req.params[name]);

/** Every route of the application; each checks its input and hands on. */
export function apiRoutes(studio: Studio): Router {
  const { store, desk, tasks, events, pool, limits, incoming } = studio;
  const api = express.Router();
  const once = new Once();
  api.use(express.json({ limit: '20mb' }));

  api.get('/jobs', async (_, res) => res.json(await store.listJobs()));
  api.post('/jobs', async (req, res) => {
    const jobId = await store.createJob(newJobSchema.parse(req.body));
    events.send({ type: 'jobs' });
    res.status(201).json({ id: jobId });
  });
  api.patch('/jobs/:id', async (req, res) => {
    await store.changeJob(id(req), jobPatchSchema.parse(req.body));
    events.send({ type: 'jobs' });
    res.json({});
  });
  api.delete('/jobs/:id', async (req, res) => {
    await store.removeJob(id(req));
    events.send({ type: 'jobs' });
    res.json({});
  });

  // A picture comes in as the bare file; its name and the task to report under stand in the query.
  api.post('/jobs/:id/pictures', async (req, res) => {
    const jobId = id(req);
    const { name, task } = z
      .object({ name: z.string().trim().min(1).max(255), task: idSchema.optional() })
      .parse(req.query);
    const path = join(incoming, newId());
    const most = limits.megabytes * 1e6;
    const declared = Number(req.headers['content-length'] ?? 0);
    const tooLarge = (bytes: number) =>
      new Refused(
        `The file has ${(bytes / 1e6).toFixed(0)} MB; at most ${limits.megabytes} MB are taken. Compress it, or raise TERSUM_MAX_MEGABYTES.`,
        413,
      );
    if (declared > most) throw tooLarge(declared);
    let bytes = 0;
    const counted = new Transform({
      transform(chunk: Buffer, _, done) {
        bytes += chunk.length;
        done(bytes > most ? tooLarge(bytes) : null, chunk);
      },
    });
    try {
      await pipeline(req, counted, createWriteStream(path));
      const pictureId = await tasks.run(
        null,
        `Take in ${name}`,
        (signal, onProgress) => takeIn(studio, jobId, name, path, { signal, onProgress }),
        task,
      );
      events.send({ type: 'jobs' });
      res.status(201).json({ id: pictureId });
    } finally {
      await rm(path, { force: true });
    }
  });
  api.delete('/pictures/:id', async (req, res) => {
    desk.forget(id(req));
    await store.removePicture(id(req));
    events.send({ type: 'jobs' });
    res.json({});
  });

  api.get('/pictures/:id', async (req, res) => res.json(await desk.state(id(req))));
  api.post('/pictures/:id/edits', async (req, res) => {
    const edit = editSchema.parse(req.body);
    await once.run(nameOf(req), () => desk.edit(id(req), edit));
    res.json(await desk.state(id(req)));
  });
  api.post('/pictures/:id/undo', async (req, res) => {
    const label = await once.run(nameOf(req), () => desk.step(id(req), -1));
    res.json({ label, state: await desk.state(id(req)) });
  });
  api.post('/pictures/:id/redo', async (req, res) => {
    const label = await once.run(nameOf(req), () => desk.step(id(req), 1));
    res.json({ label, state: await desk.state(id(req)) });
  });
  api.post('/pictures/:id/fills', async (req, res) => {
    const request = fillRequestSchema.parse(req.body);
    const started = await once.run(nameOf(req), async () => {
      const taskId = newId();
      return { ...(await desk.fill(id(req), request, taskId)), taskId };
    });
    res.status(202).json(started);
  });

  api.post('/pictures/:id/survey', async (req, res) => {
    const request = surveyRequestSchema.parse(req.body ?? {});
    await desk.present(id(req));
    const taskId = newId();
    startSurvey(studio, id(req), request, taskId);
    res.status(202).json({ taskId });
  });
  api.get('/pictures/:id/survey', async (req, res) => res.json(await readSurvey(studio, id(req))));
  api.post('/pictures/:id/survey/decisions', async (req, res) => {
    const { ids, rejected } = decisionSchema.parse(req.body);
    await store.decide(id(req), ids, rejected);
    res.json({});
  });
  api.post('/pictures/:id/survey/accept', async (req, res) => {
    const { ids } = acceptSchema.parse(req.body);
    res.json({ taken: await once.run(nameOf(req), () => acceptFinds(studio, id(req), ids)) });
  });
  api.post('/pictures/:id/treat', async (req, res) => {
    const { faultIds } = treatRequestSchema.parse(req.body);
    const started = await once.run(nameOf(req), async () => {
      const taskId = newId();
      return { ...(await desk.treat(id(req), faultIds, taskId)), taskId };
    });
    res.status(202).json(started);
  });
  api.post('/pictures/:id/trace', async (req, res) => {
    const { points } = traceRequestSchema.parse(req.body);
    const { strand } = await once.run(nameOf(req), () => traceFault(studio, id(req), points));
    const { width, blur, contrast, length, certainty } = strand;
    res.json({ strand: { width, blur, contrast, length, certainty }, state: await desk.state(id(req)) });
  });

  api.post('/pictures/:id/mesh', async (req, res) => {
    const { faultIds } = meshRequestSchema.parse(req.body);
    const taskId = newId();
    await startMesh(studio, id(req), faultIds, taskId);
    res.status(202).json({ taskId });
  });

  api.post('/pictures/:id/proposal', async (req, res) =>
    res.json(await desk.propose(id(req), proposalRequestSchema.parse(req.body))),
  );
  api.post('/pictures/:id/pose', async (req, res) =>
    res.json(await desk.solvePose(id(req), poseRequestSchema.parse(req.body))),
  );
  // Bare samples, interleaved, 16-bit ones little-endian: what a stroke's preview computes with.
  api.get('/pictures/:id/pixels', async (req, res) => {
    const { layer, repair, ...box } = pixelsQuerySchema.parse(req.query);
    const { width, height, channels, depth, data } = await desk.beneath(id(req), box, { layer, repair });
    res
      .set({ 'Cache-Control': 'no-store', 'X-Raster': JSON.stringify({ width, height, channels, depth }) })
      .type('application/octet-stream')
      .send(Buffer.from(data.buffer, data.byteOffset, data.byteLength));
  });

  api.get('/pictures/:id/attention', async (req, res) => {
    const { bytes } = await pool.run('attention', { raster: await desk.present(id(req)) });
    res
      .set('Cache-Control', req.query.v ? FOREVER : 'no-store')
      .type('image/png')
      .send(Buffer.from(bytes));
  });

  api.get('/pictures/:id/work', async (req, res) => res.json(await store.workLog(id(req))));
  api.post('/pictures/:id/work', async (req, res) => {
    const { kind, seconds } = workSchema.parse(req.body);
    if (!(await store.picture(id(req)))) throw new Refused('This picture no longer exists.', 404);
    await store.logWork(id(req), kind, seconds);
    res.json(await store.workLog(id(req)));
  });

  const whole = z.coerce.number().int().min(0).max(1_000_000);
  const hash = z.string().regex(/^[0-9a-f]{64}$/);
  const tileView = z.union([
    z.enum(['repaired', 'original', 'difference', 'changes']),
    z
      .string()
      .regex(/^only-[a-z0-9]{8,40}$/)
      .transform((v) => v as `only-${string}`),
  ]);
  api.get('/pictures/:id/tiles/:view/:version/:level/:x/:y', async (req, res) => {
    const { view, level, x, y } = z.object({ view: tileView, level: whole, x: whole, y: whole }).parse(req.params);
    const tile = await desk.tile(id(req), view, level, x, y, TILE_SIDE);
    res.set('Cache-Control', FOREVER).type(tile.type).send(Buffer.from(tile.bytes));
  });
  api.get('/pictures/:id/close-up', async (req, res) => {
    const q = z
      .object({
        x: whole,
        y: whole,
        width: whole.min(1),
        height: whole.min(1),
        side: whole.min(16).max(1024),
        view: z.enum(['repaired', 'original']).default('repaired'),
        v: z.string().max(60).optional(),
      })
      .parse(req.query);
    const tile = await desk.closeUp(id(req), q, q.side, q.view);
    res
      .set('Cache-Control', q.v ? FOREVER : 'no-store')
      .type(tile.type)
      .send(Buffer.from(tile.bytes));
  });
  api.get('/pictures/:id/renderings/:key/close-up', async (req, res) => {
    const side = whole.min(1).max(1024);
    const q = z
      .object({ x: whole, y: whole, width: side, height: side, v: z.string().max(60).optional() })
      .parse(req.query);
    const tile = await desk.tryView(id(req), q, hash.parse(req.params.key));
    res
      .set('Cache-Control', q.v ? FOREVER : 'no-store')
      .type(tile.type)
      .send(Buffer.from(tile.bytes));
  });
  api.get('/pictures/:id/renderings/:key', async (req, res) => {
    const key = hash.parse(req.params.key);
    const { bytes } = await desk.patchView(id(req), key);
    res.set('Cache-Control', FOREVER).type('image/png').send(Buffer.from(bytes));
  });

  api.get('/pictures/:id/export', async (req, res) => {
    const { format, quality } = exportQuerySchema.parse(req.query);
    const pictureId = id(req);
    const { name, ...input } = await desk.exportInput(pictureId);
    const { bytes } = await tasks.run(pictureId, `Export ${format.toUpperCase()}`, (signal, progress) =>
      pool.run('export', { ...input, format, quality }, { heavy: true, soon: true, onProgress: progress, signal }),
    );
    const [type, ending] = MEDIA[format];
    const base = name.replace(/\.[a-z0-9]+$/i, '');
    res.attachment(`${base} repaired.${ending}`).type(type).send(Buffer.from(bytes));
  });

  api.delete('/tasks/:id', (req, res) => {
    res.json({ cancelled: tasks.cancel(id(req)) });
  });

  api.get('/events', (req, res) => {
    res.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive' });
    res.flushHeaders();
    res.write(': open\n\n');
    const stop = events.listen((event) => res.write(`data: ${JSON.stringify(event)}\n\n`));
    const beat = setInterval(() => res.write(': beat\n\n'), 20_000);
    req.on('close', () => {
      stop();
      clearInterval(beat);
    });
  });

  api.use((_, __, next) => next(new Refused('There is nothing at this address.', 404)));
  api.use((error: Error & { status?: number }, _: Request, res: Response, next: NextFunction) => {
    if (res.headersSent) return next(error);
    const refusal = refusalFor(error);
    if (refusal.status >= 500) console.error(error);
    res.status(refusal.status).json({ message: refusal.message } satisfies Refusal);
  });
  return api;
}

function refusalFor(error: Error & { status?: number; type?: string }): { status: number; message: string } {
  if (error instanceof Refused) return { status: error.status, message: error.message };
  if (error instanceof z.ZodError) {
    const issue = error.issues[0];
    const where = issue.path.join('.');
    return { status: 400, message: where ? `${where}: ${issue.message}` : issue.message };
  }
  if (error.name === 'Cancelled' || error.message === 'Cancelled.') return { status: 409, message: 'Cancelled.' };
  if (error.type === 'entity.too.large')
    return { status: 413, message: 'That is more than one edit may hold (20 MB). Do it in smaller portions.' };
  if (error.type === 'entity.parse.failed') return { status: 400, message: 'The request is no valid JSON.' };
  if (/no longer exists/.test(error.message)) return { status: 404, message: error.message };
  return { status: 500, message: `Something went wrong here: ${error.message}` };
}
