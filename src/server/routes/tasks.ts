import { Router } from 'express';
import { TASKS } from '../../contract/addresses.ts';
import type { Studio } from '../studio.ts';
import { serve } from './serve.ts';

const BEAT_MS = 20_000;

/** Long work: cancelling it, and hearing of it and of all else that happens. */
export function taskRoutes({ tasks, events }: Studio): Router {
  const routes = Router();
  serve(routes, TASKS.stop, ({ params: { id } }) => ({ cancelled: tasks.cancel(id) }));
  serve(routes, TASKS.events, ({ req, res }) => {
    res.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive' });
    res.flushHeaders();
    res.write(': open\n\n');
    const stop = events.listen((event) => res.write(`data: ${JSON.stringify(event)}\n\n`));
    const beat = setInterval(() => res.write(': beat\n\n'), BEAT_MS);
    req.on('close', () => {
      stop();
      clearInterval(beat);
    });
  });
  return routes;
}
