import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { randomBytes } from 'node:crypto';
import express, { type Express } from 'express';
import helmet from 'helmet';
import { apiRoutes } from '../routes/api.ts';
import { answerErrors } from '../routes/errors.ts';
import type { Studio } from '../studio.ts';
import { passwordAccess } from './access.ts';
import { endedSessions } from './ended-sessions.ts';
import { onlyKnownHosts, onlyOwnPages } from './hosts.ts';
import type { ServerSettings } from './settings.ts';

const OWN = ["'self'"];

const headers = helmet({
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: OWN,
      imgSrc: [...OWN, 'blob:', 'data:'],
      styleSrc: [...OWN, "'unsafe-inline'"],
      scriptSrc: [...OWN, "'wasm-unsafe-eval'"],
      workerSrc: [...OWN, 'blob:'],
      connectSrc: OWN,
      objectSrc: ["'none'"],
      frameAncestors: ["'none'"],
      baseUri: ["'none'"],
      formAction: OWN,
    },
  },
  // Strictly none at all would hide the origin of the log-in form, too.
  referrerPolicy: { policy: 'same-origin' },
  // The server itself speaks plain HTTP; who puts it behind HTTPS says so there.
  strictTransportSecurity: false,
});

/** The application as it is served: who may ask, the interface's files, the routes. */
export async function createApp(studio: Studio, settings: ServerSettings, web: string): Promise<Express> {
  const app = express();
  app.disable('x-powered-by');
  // Who asks is told by proxies that were named alone; anybody could write the same.
  if (settings.trustedProxies.length) app.set('trust proxy', settings.trustedProxies);
  app.use(headers, onlyKnownHosts(settings.allowedHosts));
  app.use(['/api', '/login', '/logout'], onlyOwnPages);
  if (settings.password) {
    const secret = await studio.store.setting('session-secret', randomBytes(32).toString('hex'));
    app.use(passwordAccess(settings.password, secret, await endedSessions(studio)));
  }
  // Answers are of this moment; what never changes under its address says so itself.
  app.use('/api', (_, res, next) => {
    res.set('Cache-Control', 'no-store');
    next();
  });
  app.use('/api', apiRoutes(studio));
  if (existsSync(web)) {
    app.use(
      express.static(web, {
        index: false,
        setHeaders: (res, path) =>
          path.includes('assets') && res.set('Cache-Control', 'public, max-age=31536000, immutable'),
      }),
    );
    app.get(/.*/, (_, res) => res.sendFile(join(web, 'index.html')));
  }
  app.use(answerErrors);
  return app;
}
