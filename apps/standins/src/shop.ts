/**
 * Stands in for a shop: asks people who know no designs for their wishes, sends each order as a wish sheet to Stem Trace, and
 * tells what came of it. It is there to be tried with; everybody who reaches it may order.
 */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { orderPage, shopPage, type Offer, type Order } from './shop-pages.js';
import { Teller } from './teller.js';

const MOST_BYTES = 64 * 1024;

export interface ShopOptions {
  /** Address of Stem Trace. */
  readonly store: string;
  readonly login: string;
  readonly password: string;
  /** Number of the recipe that orders are fulfilled by. */
  readonly recipe: string;
}

export function shop(options: ShopOptions): Server {
  const teller = new Teller(options);
  return createServer((request, response) => {
    answer(request, response, options, teller).catch((error: unknown) => {
      if (!response.headersSent) say(response, 502, error instanceof Error ? error.message : String(error));
      else response.destroy();
    });
  });
}

async function answer(
  request: IncomingMessage,
  response: ServerResponse,
  { store, recipe }: ShopOptions,
  teller: Teller,
): Promise<void> {
  const { pathname } = new URL(request.url ?? '/', 'http://here');
  const { origin, host } = request.headers;
  if (request.method === 'POST' && pathname === '/orders') {
    // Other pages that somebody looks at must not order in their name.
    if (origin !== undefined && origin !== `http://${host}`)
      return say(response, 403, 'Orders come from the page of this shop alone.');
    const form = await formOf(request);
    if (!form) return say(response, 413, `An order has at most ${MOST_BYTES} bytes.`);
    const { wishes, customer } = wishesIn(form);
    const { batch } = await teller.ask<{ batch: string }>('POST', '/api/wishes', {
      recipe,
      sheets: [{ for: customer === '' ? 'the shop' : customer, wishes }],
    });
    response.writeHead(303, { Location: `/orders/${batch}` }).end();
    return;
  }
  if (request.method !== 'GET') return say(response, 405, 'Orders are posted to /orders.');
  if (pathname === '/') return show(response, shopPage(await offerOf(teller, recipe)));
  const [, batch = ''] = /^\/orders\/([0-9a-f-]{36})$/.exec(pathname) ?? [];
  const [order] = batch === '' ? [] : await teller.ask<Order[]>('GET', `/api/wishes?recipe=&batch=${batch}`);
  if (!order) return say(response, 404, 'There is no such order.');
  show(response, orderPage(order, store));
}

async function offerOf(teller: Teller, recipe: string): Promise<Offer> {
  const view = await teller.ask<{ name: string; recipe: { wishes: Offer['wishes'] } }>(
    'GET',
    `/api/recipe?item=${encodeURIComponent(recipe)}`,
  );
  return { name: view.name, wishes: view.recipe.wishes };
}

/** What was not filled in is left to the recipe. */
function wishesIn(form: URLSearchParams): {
  readonly wishes: Record<string, string>;
  readonly customer: string;
} {
  const said = [...form].map(([name, value]) => [name, value.trim()] as const);
  return {
    customer: said.find(([name]) => name === 'customer')?.[1] ?? '',
    wishes: Object.fromEntries(
      said.flatMap(([name, value]) =>
        name.startsWith('wish ') && value !== '' ? [[name.slice('wish '.length), value]] : [],
      ),
    ),
  };
}

/** @returns undefined where it is too large */
async function formOf(request: IncomingMessage): Promise<URLSearchParams | undefined> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MOST_BYTES) return undefined;
    chunks.push(chunk);
  }
  return new URLSearchParams(Buffer.concat(chunks).toString('utf8'));
}

function say(response: ServerResponse, status: number, text: string): void {
  response.writeHead(status, { 'Content-Type': 'text/plain; charset=utf-8' }).end(`${text}\n`);
}

function show(response: ServerResponse, html: string): void {
  response
    .writeHead(200, {
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Security-Policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
    })
    .end(html);
}
