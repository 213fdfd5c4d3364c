/**
 * Stands in for a program that is told what happens: takes whatever is posted, shows it, and says whether its seal holds for the secret
 * that is given in the address of the page. It shares nothing with the sender.
 */
import { createHmac, timingSafeEqual } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';

const MOST_BYTES = 1_000_000;
const MOST_KEPT = 200;

interface Told {
  readonly at: Date;
  readonly event: string;
  readonly delivery: string;
  readonly time: string;
  readonly seal: string;
  readonly body: string;
}

export function hooks(): Server {
  const told: Told[] = [];
  return createServer((request, response) => {
    const done = request.method === 'POST' ? take(request, response, told) : show(request, response, told);
    done.catch((error: unknown) => response.writeHead(500).end(String(error)));
  });
}

async function take(request: IncomingMessage, response: ServerResponse, told: Told[]): Promise<void> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MOST_BYTES) return void response.writeHead(413).end();
    chunks.push(chunk);
  }
  const header = (name: string): string => String(request.headers[name] ?? '');
  const one = {
    ...{ at: new Date(), event: header('stem-event'), delivery: header('stem-delivery') },
    ...{ time: header('stem-time'), seal: header('stem-seal'), body: Buffer.concat(chunks).toString('utf8') },
  };
  // What is sent again under one id is taken once.
  if (!told.some(({ delivery }) => delivery === one.delivery)) told.unshift(one);
  told.length = Math.min(told.length, MOST_KEPT);
  response.writeHead(204).end();
}

function holds({ time, delivery, body, seal }: Told, secret: string): boolean {
  const wanted = Buffer.from(
    `sha256=${createHmac('sha256', secret).update(`${time}.${delivery}.${body}`).digest('hex')}`,
  );
  const given = Buffer.from(seal);
  return wanted.length === given.length && timingSafeEqual(wanted, given);
}

function show(request: IncomingMessage, response: ServerResponse, told: readonly Told[]): Promise<void> {
  const secret = new URL(request.url ?? '/', 'http://here').searchParams.get('secret') ?? '';
  const rows = told.map((one) => {
    const seal = secret === '' ? 'give the secret above' : holds(one, secret) ? 'holds' : 'does not hold';
    return `<tr><td>${one.at.toISOString()}</td><td>${escaped(one.event)}</td><td>${seal}</td><td><code>${escaped(one.body)}</code></td></tr>`;
  });
  const table =
    rows.length === 0
      ? '<p>Nothing has come. Make a webhook with the address of this page.</p>'
      : `<table><thead><tr><th>Came</th><th>Event</th><th>Seal</th><th>What</th></tr></thead><tbody>${rows.join('')}</tbody></table>`;
  response
    .writeHead(200, {
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
    })
    .end(
      `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Webhooks (stand-in)</title><style>body{font-family:sans-serif;margin:2rem}td,th{text-align:left;padding:4px 16px 4px 0;vertical-align:top}</style></head><body><h1>Webhooks (stand-in)</h1><form><label>Secret <input name="secret" value="${escaped(secret)}" size="50"></label> <button>Try the seals</button></form>${table}</body></html>`,
    );
  return Promise.resolve();
}

const ESCAPES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (character) => ESCAPES[character] ?? character);
}
