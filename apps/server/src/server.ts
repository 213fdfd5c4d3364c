import 'reflect-metadata';
import { join } from 'node:path';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { LogLevel } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import { type NestExpressApplication } from '@nestjs/platform-express';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import { AppModule, type AppOptions } from './app.module.js';
import { Pauses } from './jobs/pauses.js';
import { ReaderPool } from './jobs/reader-pool.js';
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
  const pauses = app.get(Pauses);
  app.use('/api', (_request: Request, _response: Response, next: NextFunction) => {
    pauses.noteAsked();
    next();
  });
  app.use(express.json({ limit: '16mb' }));
  if (options.webFolder !== undefined) serveWeb(app, options.webFolder);
  await app.listen(options.port, '127.0.0.1');
  const server = app.getHttpServer() as Server;
  const { port } = server.address() as AddressInfo;
  return {
    app,
    address: `http://127.0.0.1:${port}`,
    close: async () => {
      server.closeAllConnections();
      await app.close();
      await Promise.all([app.get(ReaderPool).close(), app.get(TessellatePool).close()]);
    },
  };
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
    if (request.method !== 'GET' || request.path.startsWith('/api/') || request.path.startsWith('/assets/'))
      next();
    else response.sendFile(join(folder, 'index.html'), { headers: { 'Cache-Control': 'no-cache' } });
  });
}
