import { existsSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import express from 'express';
import { addDemo } from './demo.ts';
import { apiRoutes } from './routes/api.ts';
import { openStudio } from './studio.ts';

const here = dirname(fileURLToPath(import.meta.url));
const root = resolve(here, '../..');
const host = process.env.TERSUM_HOST ?? '127.0.0.1';
const port = Number(process.env.TERSUM_PORT ?? 4173);
const data = resolve(process.env.TERSUM_DATA ?? join(root, 'data'));

const studio = await openStudio({
  data,
  storeScript: join(here, 'store.js'),
  poolScript: join(here, 'pool.js'),
  migrations: join(here, 'migrations'),
});
if (process.env.TERSUM_DEMO !== 'off') await addDemo(studio, join(root, 'demo/pictures'));

const app = express();
app.disable('x-powered-by');
app.use((_, res, next) => {
  res.set({
    'X-Content-Type-Options': 'nosniff',
    'Referrer-Policy': 'no-referrer',
    'Content-Security-Policy':
      "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; connect-src 'self'; worker-src 'self' blob:; script-src 'self' 'wasm-unsafe-eval'",
  });
  next();
});
// Only pages of this server may ask it for anything: other sites in the same browser are turned away.
app.use('/api', (req, res, next) => {
  const origin = req.headers.origin;
  const site = req.headers['sec-fetch-site'];
  if ((origin && new URL(origin).host !== req.headers.host) || site === 'cross-site') {
    res.status(403).json({ message: 'Requests from other sites are not answered.' });
    return;
  }
  next();
});
app.use('/api', apiRoutes(studio));
const web = join(root, 'dist/web');
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
const server = app.listen(port, host, (error?: Error) => {
  if (error) {
    console.error(`Tersum cannot listen on ${host}:${port}: ${error.message}. Set TERSUM_PORT to a free port.`);
    process.exit(1);
  }
  const address = server.address();
  const shown = typeof address === 'object' && address ? address.port : port;
  console.log(`Tersum is at http://${host.includes(':') ? `[${host}]` : host}:${shown}`);
});
// Longer than browsers keep a connection idle, so that a request never meets one that is just being closed.
server.keepAliveTimeout = 120_000;

const stop = () => {
  server.close();
  server.closeAllConnections();
  void studio.close().then(() => process.exit(0));
};
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
