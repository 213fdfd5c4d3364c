/** A page on which the routes can be read and tried, shipped with the server: `/api/docs`. */
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import express, { type Response } from 'express';

const FILES = dirname(createRequire(import.meta.url).resolve('swagger-ui-dist/package.json'));

const PAGE = `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <title>Stem Trace – routes</title>
    <link rel="stylesheet" href="/api/docs/files/swagger-ui.css" />
  </head>
  <body>
    <div id="routes"></div>
    <script src="/api/docs/files/swagger-ui-bundle.js"></script>
    <script src="/api/docs/begin.js"></script>
  </body>
</html>
`;

const BEGIN = `SwaggerUIBundle({ url: '/api/openapi.json', dom_id: '#routes', deepLinking: true, validatorUrl: null });
`;

export function serveApiDocs(app: NestExpressApplication): void {
  app.use('/api/docs/files', express.static(FILES, { index: false, maxAge: '1d' }));
  const router = express.Router();
  router.get('/api/docs/begin.js', (_, response: Response) => void response.type('js').send(BEGIN));
  router.get('/api/docs', (_, response: Response) => void response.type('html').send(PAGE));
  app.use(router);
}
