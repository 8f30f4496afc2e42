import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { constants } from 'node:zlib';
import express, { type ErrorRequestHandler, type Express, type Request, type RequestHandler, type Response } from 'express';
import compression from 'compression';
import helmet from 'helmet';
import { rateLimit } from 'express-rate-limit';
import type pg from 'pg';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { z } from 'zod';
import { BYTE_ROUTES, ROUTES, type ByteRoute, type ByteRouteName, type Problem, type RouteName, type RouteSpec } from '#contract';
import { isAllowed } from '#core/people';
import {
  faultOfDatabase,
  QUICK_LEVEL,
  readingOf,
  refuse,
  Refusal,
  runCommand,
  sentenceOf,
  SharedAnswer,
  SheetFault,
  statusOf,
  type DomainError,
  type House,
} from '#server/kernel';
import { HANDLERS } from './handlers.ts';
import { byteHandlers, takeBytes } from './bytes.ts';
import { describeApi } from './openapi.ts';
import { Lane, type Reading } from './lane.ts';
import { Streams } from './streams.ts';
import { askerOf, updateSeen, withMe, withSession } from '#server/people';

const BODY_LIMIT = '1mb';
const KEY = z.uuid();

export type AppOptions = {
  readonly house: House;
  readonly sessions: pg.Pool;
  readonly secret: string;
  readonly log: Logger;
  readonly webFolder: string | null;
};

/** Builds the HTTP application: every route of both tables mounted and checked, and the web's files. `streams` are to be closed with it. */
export function buildApp({ house, sessions, secret, log, webFolder }: AppOptions): { app: Express; streams: Streams } {
  const app = express();
  app.disable('x-powered-by');
  // What is answered is kept by nobody: nobody asks whether it is still so.
  app.disable('etag');
  app.set('trust proxy', 'loopback');
  app.use(pinoHttp({ logger: log, genReqId: requestId, serializers: { req: plainRequest, res: plainReply }, customLogLevel: logLevel }));
  app.use((req, res, next) => {
    res.set('X-Request-Id', String(req.id));
    next();
  });
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
  app.use('/api', packed(QUICKLY));
  app.get('/api/openapi.json', (_req, res) => void res.json(describeApi()));
  // Guessing is braked twice: here per device, in the database per name and badge.
  const brake = rateLimit({
    windowMs: 60_000,
    limit: 60,
    standardHeaders: true,
    legacyHeaders: false,
    handler: () => refuse({ code: 'request.tooManyRequests' }),
  });
  app.use(['/api/sign-in', '/api/first-lead'], (req, res, next) => (req.method === 'POST' ? brake(req, res, next) : next()));
  app.use('/api', withSession(house.db, sessions, secret), withMe(house.db));
  const streams = new Streams(house);
  mountBytes(app, house, streams);
  app.use('/api', express.json({ limit: BODY_LIMIT }));
  app.use('/api', refuseNul);
  mountRoutes(app, house);
  app.use('/api', (req) => refuse({ code: 'request.unknownRoute', path: req.originalUrl.slice(0, 200) }));
  if (webFolder && existsSync(webFolder)) serveWeb(app, webFolder);
  app.use((req) => refuse({ code: 'request.unknownRoute', path: req.originalUrl.slice(0, 200) }));
  app.use(answerRefusal());
  return { app, streams };
}

// What a device takes along is several times smaller so; a stream is never held back.
const packed = (how: compression.CompressionOptions = {}): RequestHandler =>
  compression({
    ...how,
    filter: (req, res) => !String(res.getHeader('Content-Type')).startsWith('text/event-stream') && compression.filter(req, res),
  });
const QUICKLY = { level: QUICK_LEVEL, brotli: { params: { [constants.BROTLI_PARAM_QUALITY]: 1 } } };

type Checked = {
  readonly me: Request['me'];
  readonly handheld: string | null;
  readonly params: unknown;
  readonly query: unknown;
  readonly body: unknown;
};

/** Checks a request against its row of the table: who may, and whether what is asked can be read. */
function checked(req: Request, spec: Pick<RouteSpec, 'allow' | 'act' | 'params' | 'query' | 'body'>): Checked {
  const me = req.me;
  if (!isAllowed(me?.role ?? null, spec.allow))
    refuse(me ? { code: 'people.noRight', role: me.role, act: spec.act } : (req.signedOut ?? { code: 'people.signInFirst' }));
  return {
    me,
    handheld: req.session.handheld ?? null,
    params: read(spec.params, req.params),
    query: read(spec.query, req.query),
    body: read(spec.body, req.body ?? {}),
  };
}

// Somebody is there. A note that cannot be kept now is kept with the next; what was done is done.
async function noteActive(house: House, req: Request): Promise<void> {
  if (askerOf(req)?.isStale) await updateSeen(house.db, req.sessionID).catch(() => undefined);
}

// Short enough to be said over the telephone.
const requestId = (): string => randomUUID().slice(0, 8);
const plainRequest = ({ id, method, url }: { id: string; method: string; url: string }): object => ({ id, method, url: url.split('?')[0] });
const plainReply = ({ statusCode }: { statusCode: number }): object => ({ status: statusCode });
const logLevel = (_req: unknown, res: { statusCode: number }): 'error' | 'debug' => (res.statusCode === 500 ? 'error' : 'debug');

// By the first word of their paths: a request is held against some rows of the table, not against all of them.
function mountRoutes(app: Express, house: House): void {
  const lane = new Lane<SharedAnswer>();
  const routers = new Map<string, express.Router>();
  for (const [name, spec] of Object.entries(ROUTES) as [RouteName, RouteSpec][]) {
    const word = `/api/${spec.path.split('/')[2] ?? ''}`;
    const router = routers.get(word) ?? express.Router();
    if (!routers.has(word)) app.use(word, router);
    routers.set(word, router);
    mount(router, house, lane, name, { ...spec, path: spec.path.slice(word.length) || '/' });
  }
}

// In these rooms an answer is one person's; in all others it is the same for everybody of a role at a site.
const OWN_ROOMS: ReadonlySet<string> = new Set(['people', 'hands', 'work']);
/** With this header a page reads itself again: nobody pressed anything, and nobody waits for it. */
const AGAIN = 'dock-row-again';

async function answered(handler: (...args: unknown[]) => Promise<unknown>, ...asked: unknown[]): Promise<string | SharedAnswer> {
  const answer = await handler(...asked);
  return answer instanceof SharedAnswer ? answer : JSON.stringify(answer);
}

const sharing = ({ answer, leave }: Reading<string | SharedAnswer>): Reading<SharedAnswer> => ({
  answer: answer.then((text) => (typeof text === 'string' ? SharedAnswer.of(text) : text)),
  leave,
});

function sendShared(req: Request, res: Response, { plain, gzip: small }: SharedAnswer): void {
  res.vary('Accept-Encoding');
  if (small && req.acceptsEncodings('gzip')) res.set('Content-Encoding', 'gzip').send(small);
  else res.send(plain);
}

function questionOf(name: RouteName, { me, params, query }: Checked): string {
  const isOwn = OWN_ROOMS.has(name.slice(0, name.indexOf('.')));
  return JSON.stringify([name, me?.role, me?.site.id, me?.sites.map((s) => s.id), isOwn ? randomUUID() : null, params, query]);
}

function mount(app: express.Router, house: House, lane: Lane<SharedAnswer>, name: RouteName, spec: RouteSpec): void {
  const handler = HANDLERS[name] as (...args: unknown[]) => Promise<unknown>;
  const handle = async (req: Request, res: Response): Promise<void> => {
    const asked = checked(req, spec);
    if (spec.method === 'GET') {
      // They may have gone while it was looked up who they are.
      if (res.closed) return;
      const begin = (): Reading<string | SharedAnswer> => {
        const { db, leave } = readingOf(house.db);
        return { answer: answered(handler, db, asked, req), leave };
      };
      const isAgain = req.get(AGAIN) !== undefined;
      const reading = isAgain ? lane.ask(questionOf(name, asked), req.sessionID, () => sharing(begin())) : begin();
      res.on('close', () => !res.writableFinished && reading.leave());
      res.set('Cache-Control', 'no-store').type('json');
      const answer = await reading.answer;
      if (typeof answer === 'string') res.send(answer);
      else sendShared(req, res, answer);
      return;
    }
    refuseOtherOrigins(req);
    if (spec.plain) {
      const reply = await handler(house, asked, req, res);
      // A device greets by itself; all else that is sent, somebody did.
      if (name !== 'hands.device') await noteActive(house, req);
      res.json(reply);
      return;
    }
    const key = KEY.safeParse(req.get('idempotency-key'));
    if (!key.success) return refuse({ code: 'request.noKey' });
    const me = req.me ?? null;
    const stamp = {
      key: key.data,
      person: me?.id ?? null,
      site: me?.site.id ?? null,
      route: name,
      request: [req.params, req.body ?? {}],
    };
    const { reply, repeated } = await runCommand(house.db, stamp, (trx) => handler(trx, asked));
    house.outbox.nudge();
    await noteActive(house, req);
    if (repeated) res.set('Idempotent-Replay', 'true');
    res.json(reply);
  };
  if (spec.method === 'GET') app.get(spec.path, handle);
  else app.post(spec.path, handle);
}

// Before JSON is read: a file is taken as it is.
function mountBytes(app: Express, house: House, streams: Streams): void {
  const handlers = byteHandlers(streams);
  for (const [name, spec] of Object.entries(BYTE_ROUTES) as [ByteRouteName, ByteRoute][]) {
    const handle: RequestHandler = async (req, res) => {
      await (handlers[name] as (...args: unknown[]) => Promise<void> | void)(house, checked(req, spec), req, res);
    };
    const mayAsk: RequestHandler = (req, _res, next) => {
      if (req.method !== 'GET') refuseOtherOrigins(req);
      checked(req, spec);
      next();
    };
    if (spec.method === 'GET') app.get(spec.path, refuseNul, handle);
    else app.post(spec.path, refuseNul, mayAsk, ...(spec.takesBytes ? takeBytes : []), handle);
  }
}

/** What no reader of the house could hold: PostgreSQL keeps no text with a zero character in it, and nothing that is asked is nested
 *  deeply. No keyboard and no label makes either: whoever sends it is told, before anything is asked. */
const refuseNul: RequestHandler = (req, _res, next) => {
  for (const [where, value] of [
    ['the address', decodeSafely(req.path)],
    ['the query', req.query],
    // What hands told is judged act by act: one that no table can hold must not hold up the others.
    ['the body', Buffer.isBuffer(req.body) || req.baseUrl + req.path === ROUTES['hands.acts'].path ? null : req.body],
  ] as const)
    if (holdsNul(value, DEEPEST))
      refuse({ code: 'request.fields', fields: [{ field: where, problem: 'has a character in it that no text has.' }] });
  next();
};

const DEEPEST = 32;

function holdsNul(value: unknown, deep: number): boolean {
  if (typeof value === 'string') return value.includes('\u0000');
  if (typeof value !== 'object' || value === null) return false;
  if (deep === 0) return refuse({ code: 'request.tooDeep' });
  return Object.entries(value).some(([key, inner]) => key.includes('\u0000') || holdsNul(inner, deep - 1));
}

function decodeSafely(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

function read(schema: z.ZodType | undefined, value: unknown): unknown {
  if (!schema) return undefined;
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  return refuse({
    code: 'request.fields',
    fields: parsed.error.issues.map((issue) => ({
      field: issue.path.join('.'),
      problem: `${issue.message}.`.replace(/\.\.$/, '.'),
    })),
  });
}

// The cookie is SameSite=Strict and commands carry a header that no form can set; browsers also say where a request comes from.
function refuseOtherOrigins(req: Request): void {
  const site = req.get('sec-fetch-site');
  const origin = req.get('origin');
  const foreign =
    (site !== undefined && site !== 'same-origin' && site !== 'none') || (origin !== undefined && hostOf(origin) !== req.get('host'));
  if (foreign) refuse({ code: 'request.otherOrigin' });
}

/** The host of an origin; '' for `null`, which a page without one says, and for what is none. */
function hostOf(origin: string): string {
  return URL.canParse(origin) ? new URL(origin).host : '';
}

function serveWeb(app: Express, folder: string): void {
  app.use(packed());
  // Built files carry a hash of their content in their names; the page itself does not.
  app.use('/assets', express.static(path.join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
  app.use(express.static(folder, { index: false }));
  app.get('/{*splat}', (_req, res) => void res.set('Cache-Control', 'no-cache').sendFile(path.join(folder, 'index.html')));
}

function answerRefusal(): ErrorRequestHandler {
  return (error: unknown, req, res, next) => {
    if (res.headersSent) return next(error);
    // Whoever asked has gone: nobody hears the answer, and that it was broken off is no fault.
    if (res.closed) return;
    const refusal = domainErrorOf(error, String(req.id));
    if (statusOf(refusal) === 500) req.log.error({ err: error, code: refusal.code }, 'fault');
    else if (statusOf(refusal) > 500) req.log.warn({ why: (error as Error).message, code: refusal.code }, 'not now');
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
function domainErrorOf(error: unknown, request: string): DomainError {
  if (error instanceof Refusal) return error.error;
  const { type, status } = error as { type?: string; status?: number };
  if (type === 'entity.parse.failed' || type === 'charset.unsupported' || type === 'encoding.unsupported')
    return { code: 'request.malformed' };
  if (type === 'entity.too.large') return { code: 'request.tooLarge', limit: BODY_LIMIT };
  if (error instanceof SheetFault) return { code: 'file.wrongKind', name: 'The file', wanted: error.message };
  if (error instanceof z.ZodError)
    return { code: 'request.fields', fields: error.issues.map((i) => ({ field: i.path.join('.'), problem: `${i.message}.` })) };
  if (error instanceof RangeError && /call stack/.test(error.message)) return { code: 'request.tooDeep' };
  if (status === 404 || status === 403) return { code: 'request.unknownRoute', path: 'this address' };
  if (error instanceof URIError || (status !== undefined && status >= 400 && status < 500)) return { code: 'request.malformed' };
  return faultOfDatabase(error) ?? { code: 'server.fault', incident: request };
}
