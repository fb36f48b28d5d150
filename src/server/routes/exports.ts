import { Router } from 'express';
import { EXPORTS, LETTERBOX } from '../../contract/addresses.ts';
import { EXPORTED } from '../../contract/exports.ts';
import { safeName } from '../../contract/file-names.ts';
import { newId } from '../../contract/ids.ts';
import { Refused } from '../../contract/refused.ts';
import { recordCsv } from '../../record/csv.ts';
import { contactsOf, filledJob, jobOf, send, takeFromLetterbox, zipOf } from '../services/hand-over.ts';
import type { Studio } from '../studio.ts';
import { signalOf } from './requests.ts';
import { serve } from './serve.ts';

/** Files for delivery, their records, and clients' letterboxes. */
export function exportRoutes(studio: Studio): Router {
  const { exports, letterbox, pool, store, tasks } = studio;
  const routes = Router();
  serve(routes, EXPORTS.ready, async ({ params: { id }, query: { missing }, res }) => ({
    repairs: await exports.ready(id, missing, signalOf(res)),
  }));
  serve(routes, EXPORTS.file, async ({ params: { id }, query, res }) => {
    const { name, bytes } = await tasks.run(
      id,
      `Export ${EXPORTED[query.format].name}`,
      (signal, onProgress) => exports.make(id, query, { signal, onProgress }),
      newId(),
      signalOf(res),
    );
    res.attachment(name).type(EXPORTED[query.format].media).send(Buffer.from(bytes));
  });
  serve(routes, EXPORTS.list, ({ params }) => store.deliveriesOf(params.id));
  serve(routes, EXPORTS.record, async ({ params, query: { form }, res }) => {
    const { record } = await recordOf(studio, params.id);
    res.attachment(`${record.delivered.fileName}.record.${form}`);
    if (form === 'csv') return void res.type('text/csv').send(recordCsv(record));
    if (form === 'json') return void res.type('application/json').send(JSON.stringify(record, null, 1));
    const { bytes } = await pool.run('recordPaper', { record });
    res.type('application/pdf').send(Buffer.from(bytes));
  });
  serve(routes, EXPORTS.job, async ({ params: { id }, query: { format }, res }) => {
    const job = await jobOf(studio, id);
    const write = (part: Uint8Array) => {
      // Only with the first piece: until then it can still be refused in words.
      if (!res.headersSent)
        res.attachment(`${safeName(job.name)} ${EXPORTED[format].name}.zip`).type('application/zip');
      res.write(part);
    };
    await tasks.run(
      null,
      `Export all of ${job.name}`,
      (signal, onProgress) => zipOf(studio, id, format, { signal, onProgress }, write),
      newId(),
      signalOf(res),
    );
    res.end();
  });
  serve(routes, EXPORTS.contacts, async ({ params: { id }, res }) => {
    const { name, bytes } = await tasks.run(
      null,
      'Contact sheet',
      (signal, onProgress) => contactsOf(studio, id, { signal, onProgress }),
      newId(),
      signalOf(res),
    );
    res.attachment(safeName(name)).type('application/pdf').send(Buffer.from(bytes));
  });
  serve(routes, LETTERBOX.waiting, async ({ params }) => letterbox.waiting(await jobOf(studio, params.id)));
  serve(routes, LETTERBOX.send, async ({ params: { id }, body }) => {
    const job = await filledJob(studio, id);
    // What cannot be sent at once is said at once.
    for (const picture of job.pictures) await exports.ready(picture.id, 'refuse');
    const taskId = newId();
    studio.background.run('Sending', () =>
      tasks.run(
        null,
        `Send ${job.name}`,
        (signal, onProgress) => send(studio, id, body, { signal, onProgress }),
        taskId,
        undefined,
        (count) => `${count === 1 ? 'It lies' : `All ${count} pictures lie`} in the letterbox, with records.`,
      ),
    );
    return { taskId };
  });
  serve(routes, LETTERBOX.take, async ({ params: { id }, body: { name }, res }) => ({
    id: await tasks.run(
      null,
      `Take in ${name}`,
      (signal, onProgress) => takeFromLetterbox(studio, id, name, { signal, onProgress }),
      newId(),
      signalOf(res),
    ),
  }));
  return routes;
}

/** The record of a file that left. @throws Refused when it is not known */
export async function recordOf({ store }: Pick<Studio, 'store'>, id: string) {
  const found = await store.deliveryRecord(id);
  if (!found) throw new Refused('This delivery is not known any more.', 404);
  return found;
}
