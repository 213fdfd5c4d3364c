/**
 * Stands in for a planning system: takes BOMs in XML, each key once, keeps them in a folder, and shows on a page what came.
 * It is there to be tried with, and does nothing with what it is given.
 */
import { createHash } from 'node:crypto';
import { mkdir, readdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { join } from 'node:path';

const MOST_BYTES = 64 * 1024 * 1024;
const ENDING = '.xml';

/** What was taken, the newest first. */
interface Taken {
  readonly file: string;
  readonly at: Date;
  readonly number: string;
  readonly version: string;
  readonly rows: number;
}

/** @param folder where BOMs are kept */
export function planning(folder: string): Server {
  return createServer((request, response) => {
    answer(folder, request, response).catch((error: unknown) => {
      if (!response.headersSent) say(response, 500, String(error));
      else response.destroy();
    });
  });
}

async function answer(folder: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const { pathname } = new URL(request.url ?? '/', 'http://here');
  if (request.method === 'POST' && pathname === '/boms') return take(folder, request, response);
  if (request.method !== 'GET')
    return say(response, 405, 'BOMs are posted to /boms; everything else is only looked at.');
  if (pathname === '/') return page(folder, response);
  const [, name = ''] = /^\/boms\/([0-9a-f]{64})$/.exec(pathname) ?? [];
  const xml = name === '' ? undefined : await readFile(join(folder, name + ENDING)).catch(() => undefined);
  if (!xml) return say(response, 404, 'There is no such BOM here.');
  response.writeHead(200, { 'Content-Type': 'application/xml' }).end(xml);
}

async function take(folder: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const key = request.headers['idempotency-key'];
  if (typeof key !== 'string' || key === '')
    return say(response, 400, 'Say in the header Idempotency-Key which BOM it is, so that it is taken once.');
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MOST_BYTES) return say(response, 413, `A BOM has at most ${MOST_BYTES} bytes here.`);
    chunks.push(chunk);
  }
  const xml = Buffer.concat(chunks);
  if (!xml.includes('<bom')) return say(response, 422, 'This is no BOM in XML.');
  await mkdir(folder, { recursive: true });
  const file = join(folder, createHash('sha256').update(key).digest('hex') + ENDING);
  if (await isThere(file)) return say(response, 200, 'It was taken before.');
  // Whole or not at all, and there before anybody is told so.
  const coming = `${file}.${process.pid}.${Date.now()}`;
  await writeFile(coming, xml, { flush: true });
  await rename(coming, file);
  return say(response, 201, 'Taken.');
}

async function isThere(file: string): Promise<boolean> {
  return stat(file).then(
    () => true,
    () => false,
  );
}

function say(response: ServerResponse, status: number, text: string): void {
  response.writeHead(status, { 'Content-Type': 'text/plain; charset=utf-8' }).end(`${text}\n`);
}

async function taken(folder: string): Promise<Taken[]> {
  const names = (await readdir(folder).catch(() => [])).filter((name) => name.endsWith(ENDING));
  const all = await Promise.all(
    names.map(async (name) => {
      const file = join(folder, name);
      const text = await readFile(file, 'utf8');
      const root = /<item [^>]*>/.exec(text)?.[0] ?? '';
      const attribute = (of: string): string => new RegExp(` ${of}="([^"]*)"`).exec(root)?.[1] ?? '';
      return {
        file: name.slice(0, -ENDING.length),
        at: (await stat(file)).mtime,
        ...{ number: attribute('number'), version: attribute('version') },
        rows: [...text.matchAll(/<item /g)].length - 1,
      };
    }),
  );
  return all.sort((a, b) => b.at.getTime() - a.at.getTime());
}

async function page(folder: string, response: ServerResponse): Promise<void> {
  const all = await taken(folder);
  const rows = all.map(
    ({ file, at, number, version, rows: count }) =>
      // What stands in attributes of XML is written the same in HTML.
      `<tr><td><a href="/boms/${file}">${number}</a></td><td>${version}</td><td>${count}</td><td>${at.toISOString()}</td></tr>`,
  );
  const body =
    all.length === 0
      ? '<p>Nothing has come yet. BOMs are posted to <code>/boms</code>.</p>'
      : `<table><thead><tr><th>BOM</th><th>Version</th><th>Rows</th><th>Came</th></tr></thead><tbody>${rows.join('')}</tbody></table>`;
  response
    .writeHead(200, {
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'",
    })
    .end(
      `<!doctype html><html lang="en"><head><title>Planning (stand-in)</title><style>body{font-family:sans-serif;margin:2rem}td,th{text-align:left;padding:4px 16px 4px 0}</style></head><body><h1>Planning (stand-in)</h1>${body}</body></html>`,
    );
}
