import 'reflect-metadata';
import { join } from 'node:path';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { LogLevel } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import { type NestExpressApplication } from '@nestjs/platform-express';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import { AppModule } from './app.module.js';
import type { AppOptions } from './app-options.js';
import { OpenFeeds } from './notices/open-feeds.js';
import { serveApiDocs } from './running/api-docs-page.js';
import { logRequests } from './serve/log-requests.js';
import { AnswersInMemory } from './serve/answers-in-memory.js';
import { DocumentPool } from './jobs/document-pool.js';
import { HandOutPool } from './jobs/hand-out-pool.js';
import { Pauses } from './jobs/pauses.js';
import { ReaderPool } from './jobs/reader-pool.js';
import { JobQueue } from './queue/job-queue.js';
import { WorkHost } from './work/work-host.js';
import { ServerSettings } from './server-settings.js';
import { TessellatePool } from './jobs/tessellate-pool.js';

export interface ServerOptions extends AppOptions {
  /** 0 for any free port. */
  readonly port: number;
  /** Folder of the built web application; absent where only the API is served. */
  readonly webFolder?: string;
  readonly logLevels?: LogLevel[];
}

export interface RunningServer {
  readonly app: NestExpressApplication;
  readonly address: string;
  close(): Promise<void>;
}

/** Starts web and API on one loopback address. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(options), {
    logger: options.logLevels ?? ['log', 'warn', 'error', 'fatal'],
    bodyParser: false,
  });
  app.use(
    helmet({ contentSecurityPolicy: { directives: CONTENT_SECURITY }, strictTransportSecurity: false }),
  );
  if (app.get(ServerSettings).logsRequests) app.use(logRequests());
  const pauses = app.get(Pauses);
  app.use('/api', (_request: Request, _response: Response, next: NextFunction) => {
    pauses.noteAsked();
    next();
  });
  const answers = app.get(AnswersInMemory);
  app.use((request: Request, response: Response, next: NextFunction) => {
    answers.answer(request, response, next).catch(next);
  });
  serveApiDocs(app);
  if (options.webFolder !== undefined) serveWeb(app, options.webFolder);
  const { address, trustProxy } = app.get(ServerSettings);
  app.set('trust proxy', trustProxy);
  await app.listen(options.port, address);
  const server = app.getHttpServer() as Server;
  // A file may take longer to come in than the five minutes that Node gives a request; standing still ends it instead.
  server.requestTimeout = 0;
  server.headersTimeout = 60_000;
  const { port } = server.address() as AddressInfo;
  return {
    app,
    address: `http://127.0.0.1:${port}`,
    close: () => close(app, server, options.pools === undefined),
  };
}

/** Answers that are under way may come to their end for so long. */
const DRAIN_MS = 8000;

/** No new requests; those under way are answered, then everything that works for them ends, whatever it is at. */
async function close(app: NestExpressApplication, server: Server, ownsPools: boolean): Promise<void> {
  const drained = new Promise<void>((done) => server.close(() => done()));
  server.closeIdleConnections();
  app.get(JobQueue).stop();
  // What never ends by itself: whoever listens connects again, to another server or a later one.
  app.get(OpenFeeds).endAll();
  await Promise.race([drained, new Promise((done) => setTimeout(done, DRAIN_MS).unref())]);
  server.closeAllConnections();
  await Promise.all([
    app.get(WorkHost).close(),
    app.get(HandOutPool).close(),
    app.get(DocumentPool).close(),
    ...(ownsPools ? [app.get(ReaderPool).close(), app.get(TessellatePool).close()] : []),
  ]);
  await app.close();
}

/** Styles are written by the application while it runs, so inline ones are allowed; scripts never are. */
const CONTENT_SECURITY = {
  'default-src': ["'self'"],
  'script-src': ["'self'", "'wasm-unsafe-eval'"],
  'style-src': ["'self'", "'unsafe-inline'"],
  'img-src': ["'self'", 'data:', 'blob:'],
  'worker-src': ["'self'", 'blob:'],
  'object-src': ["'none'"],
  'frame-ancestors': ["'none'"],
  'upgrade-insecure-requests': null,
};

/** Files of the web application, and its page for every other address, so that any view can be opened by its address. */
function serveWeb(app: NestExpressApplication, folder: string): void {
  app.use(
    '/assets',
    express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }),
  );
  app.use(express.static(folder, { index: false }));
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.method !== 'GET' || /^\/(api|assets)\/|^\/(health|ready)$/.test(request.path)) next();
    else response.sendFile(join(folder, 'index.html'), { headers: { 'Cache-Control': 'no-cache' } });
  });
}
