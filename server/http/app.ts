import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import path from 'node:path';
import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express';
import compression from 'compression';
import helmet from 'helmet';
import { rateLimit } from 'express-rate-limit';
import session from 'express-session';
import connectPgSimple from 'connect-pg-simple';
import type pg from 'pg';
import type { Logger } from 'pino';
import { z } from 'zod';
import { ROUTES, type Problem, type RouteName, type RouteSpec } from '#contract';
import { isAllowed } from '#core/people';
import {
  refuse,
  Refusal,
  refusalOfConstraint,
  runCommand,
  sentenceOf,
  SheetFault,
  statusOf,
  type DomainError,
  type House,
} from '#server/kernel';
import { HANDLERS } from './handlers.ts';
import { describeApi } from './openapi.ts';
import { eventStream } from './events.ts';
import { withMe } from '#server/people';
import { orderSlip } from '#server/shipping';
import { fileRoutes } from '#server/work';
import { downloads } from './downloads.ts';

const BODY_LIMIT = '1mb';
const SESSION_HOURS = 12;

export type AppOptions = {
  readonly house: House;
  readonly sessions: pg.Pool;
  readonly secret: string;
  readonly log: Logger;
  readonly webFolder: string | null;
};

/** Builds the HTTP application: every route of the table mounted and checked, the event stream, the papers, and the web's files. */
export function buildApp({ house, sessions, secret, log, webFolder }: AppOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', 'loopback');
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          workerSrc: ["'self'"],
          manifestSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          frameAncestors: ["'none'"],
          formAction: ["'self'"],
        },
      },
    }),
  );
  // What a device takes along is ten times smaller so; a stream is never held back.
  app.use(
    compression({
      filter: (req, res) => !String(res.getHeader('Content-Type')).startsWith('text/event-stream') && compression.filter(req, res),
    }),
  );
  app.get('/api/openapi.json', (_req, res) => void res.json(describeApi()));
  const store = new (connectPgSimple(session))({ pool: sessions, tableName: 'session', disableTouch: true, pruneSessionInterval: 15 * 60 });
  const withSession = session({
    store,
    secret,
    name: 'dockrow',
    resave: false,
    saveUninitialized: false,
    unset: 'destroy',
    cookie: { httpOnly: true, sameSite: 'strict', secure: 'auto', maxAge: SESSION_HOURS * 3_600_000 },
  });
  // Guessing is braked twice: here per device, in the database per name and badge.
  const brake = rateLimit({
    windowMs: 60_000,
    limit: 60,
    standardHeaders: true,
    legacyHeaders: false,
    handler: () => refuse({ code: 'request.tooManyRequests' }),
  });
  app.use(['/api/sign-in', '/api/first-lead'], (req, res, next) => (req.method === 'POST' ? brake(req, res, next) : next()));
  app.use('/api', withSession, withMe(house.db));
  app.use((req, _res, next) => {
    if (req.method !== 'GET' && req.path.startsWith('/api/files')) refuseOtherOrigins(req);
    next();
  });
  app.use(fileRoutes(house));
  app.use('/api', express.json({ limit: BODY_LIMIT }));
  app.use('/api', refuseNul);
  app.use(downloads(house));
  for (const [name, spec] of Object.entries(ROUTES) as [RouteName, RouteSpec][]) mount(app, house, name, spec);
  app.get('/api/events', eventStream(house));
  app.get('/api/orders/:id/slip.pdf', orderSlip(house));
  app.use('/api', (req) => refuse({ code: 'request.unknownRoute', path: req.originalUrl.slice(0, 200) }));
  if (webFolder && existsSync(webFolder)) serveWeb(app, webFolder);
  app.use(answerRefusal(log));
  return app;
}

function mount(app: Express, house: House, name: RouteName, spec: RouteSpec): void {
  const handle = async (req: Request, res: Response): Promise<void> => {
    const me = req.me;
    if (!isAllowed(me?.role ?? null, spec.allow)) {
      refuse(me ? { code: 'people.noRight', role: me.role, act: spec.act } : { code: 'people.signInFirst' });
    }
    const asked = {
      me: me as never,
      params: read(spec.params, req.params, ''),
      query: read(spec.query, req.query, ''),
      body: read(spec.body, req.body ?? {}, ''),
    } as never;
    if (spec.method === 'GET') {
      res.set('Cache-Control', 'no-store').json(await (HANDLERS[name] as (...args: unknown[]) => Promise<unknown>)(house.db, asked));
      return;
    }
    refuseOtherOrigins(req);
    if (spec.plain) {
      res.json(await (HANDLERS[name] as (...args: unknown[]) => Promise<unknown>)(house, asked, req, res));
      return;
    }
    const key = z.uuid().safeParse(req.get('idempotency-key'));
    if (!key.success) return refuse({ code: 'request.noKey' });
    const stamp = { key: key.data, person: me?.id ?? null, route: name, request: [req.params, req.body ?? {}] };
    const { reply, repeated } = await runCommand(house.db, stamp, (trx) =>
      (HANDLERS[name] as (...args: unknown[]) => Promise<unknown>)(trx, asked),
    );
    house.outbox.nudge();
    if (repeated) res.set('Idempotent-Replay', 'true');
    res.json(reply);
  };
  if (spec.method === 'GET') app.get(spec.path, handle);
  else app.post(spec.path, handle);
}

/** PostgreSQL keeps no text with a zero character in it, and no keyboard or label makes one: whoever sends it is told, before anything is asked. */
function refuseNul(req: Request, _res: Response, next: () => void): void {
  for (const [where, value] of [
    ['the address', decodeSafely(req.path)],
    ['the query', req.query],
    // What hands told is judged act by act: one that no table can hold must not hold up the others.
    ['the body', req.baseUrl + req.path === ROUTES['hands.acts'].path ? null : req.body],
  ] as const)
    if (holdsNul(value)) refuse({ code: 'request.fields', fields: [{ field: where, problem: 'has a character in it that no text has.' }] });
  next();
}

function holdsNul(value: unknown): boolean {
  if (typeof value === 'string') return value.includes('\u0000');
  if (typeof value !== 'object' || value === null) return false;
  return Object.entries(value).some(([key, inner]) => key.includes('\u0000') || holdsNul(inner));
}

function decodeSafely(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

function read(schema: z.ZodType | undefined, value: unknown, prefix: string): unknown {
  if (!schema) return undefined;
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  return refuse({
    code: 'request.fields',
    fields: parsed.error.issues.map((issue) => ({
      field: prefix + issue.path.join('.'),
      problem: `${issue.message}.`.replace(/\.\.$/, '.'),
    })),
  });
}

// The cookie is SameSite=Strict and commands carry a header that no form can set; browsers also say where a request comes from.
function refuseOtherOrigins(req: Request): void {
  const site = req.get('sec-fetch-site');
  const origin = req.get('origin');
  const foreign =
    (site !== undefined && site !== 'same-origin' && site !== 'none') || (origin !== undefined && new URL(origin).host !== req.get('host'));
  if (foreign) refuse({ code: 'request.otherOrigin' });
}

function serveWeb(app: Express, folder: string): void {
  // Built files carry a hash of their content in their names; the page itself does not.
  app.use('/assets', express.static(path.join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  app.use(express.static(folder, { index: false }));
  app.get('/{*splat}', (_req, res) => void res.set('Cache-Control', 'no-cache').sendFile(path.join(folder, 'index.html')));
}

function answerRefusal(log: Logger): ErrorRequestHandler {
  return (error: unknown, req, res, next) => {
    if (res.headersSent) return next(error);
    const refusal = domainErrorOf(error);
    if (refusal.code === 'server.fault') log.error({ err: error, incident: refusal.incident, path: req.path }, 'fault');
    const { code, ...facts } = refusal;
    const problem: Problem = {
      ...facts,
      type: `https://dock-row.invalid/problems/${code}`,
      title: code,
      status: statusOf(refusal),
      code,
      detail: sentenceOf(refusal),
    };
    res.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };
}

/** The one place that turns anything thrown into a refusal. */
function domainErrorOf(error: unknown): DomainError {
  if (error instanceof Refusal) return error.error;
  const { type, code, status } = error as { type?: string; code?: string; status?: number };
  if (type === 'entity.parse.failed' || type === 'charset.unsupported' || type === 'encoding.unsupported')
    return { code: 'request.malformed' };
  if (type === 'entity.too.large') return { code: 'request.tooLarge', limit: BODY_LIMIT };
  if (error instanceof SheetFault) return { code: 'file.wrongKind', name: 'The file', wanted: error.message };
  if (error instanceof z.ZodError)
    return { code: 'request.fields', fields: error.issues.map((i) => ({ field: i.path.join('.'), problem: `${i.message}.` })) };
  if (status === 404) return { code: 'request.unknownRoute', path: 'this address' };
  if (error instanceof URIError || status === 400) return { code: 'request.malformed' };
  // Two people at the same moment: what the checks before could not see, the database's own rules refuse.
  const met = refusalOfConstraint(error);
  if (met) return met;
  if (
    code === 'ECONNREFUSED' ||
    code === '57P01' ||
    code === '57P03' ||
    code === '53300' ||
    (error as Error | undefined)?.name === 'KnexTimeoutError'
  )
    return { code: 'server.noDatabase' };
  return { code: 'server.fault', incident: randomUUID().slice(0, 8) };
}
