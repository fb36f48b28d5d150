import { createHash, randomUUID, timingSafeEqual } from 'node:crypto';
import cookieSession from 'cookie-session';
import express, { Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import { z } from 'zod';
import { Refused } from '../../contract/refused.ts';
import { loginPage } from './login-page.ts';

const DAY_MS = 24 * 3600 * 1000;
/** Wrong passwords from one address before it has to wait, and for how long. */
const TRIES = { limit: 10, windowMs: 15 * 60 * 1000 };

const hash = (text: string) => createHash('sha256').update(text).digest();
const bodySchema = z.object({ password: z.string() });

/** Sessions that were logged out of; they stay so over a restart. */
export interface EndedSessions {
  has(id: string): boolean;
  add(id: string): Promise<void>;
}

/** Without a session, only the page that asks for the password, and what it looks like, are answered. */
const OPEN = /^\/(login$|assets\/)/;

/**
 * Lets only those in who know the password.
 * @param secret signs the sessions; with another secret or another password they end
 * @param ended sessions that were logged out of
 */
export function passwordAccess(password: string, secret: string, ended: EndedSessions): Router {
  const routes = Router();
  const key = hash(`${secret}\n${password}`).toString('hex');
  routes.use(
    cookieSession({
      name: 'tersum',
      keys: [key],
      maxAge: 30 * DAY_MS,
      sameSite: 'strict',
      httpOnly: true,
      secure: false,
    }),
  );
  routes.get('/login', (_, res) => void res.type('html').send(loginPage()));
  routes.post(
    '/login',
    rateLimit({
      ...TRIES,
      skipSuccessfulRequests: true,
      requestWasSuccessful: (_, res) => res.statusCode === 303,
      standardHeaders: true,
      legacyHeaders: false,
      handler: (_, res) =>
        void res
          .status(429)
          .type('html')
          .send(loginPage('Too many wrong passwords. Wait a quarter of an hour, then try again.')),
    }),
    // What is longer than any password is none, and refused as a wrong one.
    (req, res, next) => express.urlencoded({ extended: false, limit: '64kb' })(req, res, () => next()),
    (req, res) => {
      const { success, data } = bodySchema.safeParse(req.body);
      if (!success || !timingSafeEqual(hash(data.password), hash(password))) {
        res.status(401).type('html').send(loginPage('This is not the password. Try again.'));
        return;
      }
      req.session = { in: randomUUID() };
      res.redirect(303, '/');
    },
  );
  routes.post('/logout', async (req, res) => {
    // Whoever kept a copy of the cookie is out as well.
    const id: unknown = req.session?.in;
    if (typeof id === 'string') await ended.add(id);
    req.session = null;
    res.redirect(303, '/login');
  });
  routes.use((req, res, next) => {
    const id: unknown = req.session?.in;
    if ((typeof id === 'string' && !ended.has(id)) || OPEN.test(req.path)) return next();
    if (req.path.startsWith('/api')) return next(new Refused('Log in first: reload the page.', 401));
    res.redirect(303, '/login');
  });
  return routes;
}
