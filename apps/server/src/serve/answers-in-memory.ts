import { Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import { ROUTES, type Route } from '@stem-trace/contract';
import type { NextFunction, Request, Response } from 'express';
import { LRUCache } from 'lru-cache';
import { from, lastValueFrom, type Observable } from 'rxjs';
import { credentialOf } from './access.guard.js';
import { AccessService } from '../access/access.service.js';
import type { Person } from '../database/entities/person.js';
import { markOf } from '../feed/kept.js';
import { Marks } from '../feed/freshness.js';
import { Askers, type SharedRequest } from './asker.js';
import { JsonBytes } from './json-bytes.js';
import { routeOf } from './serve.js';

interface KeptAnswer {
  readonly mark: string;
  readonly json: Buffer;
}

const MOST_BYTES = 128 * 1024 * 1024;
/** Larger ones are rare, and would drive out very many others. */
const MOST_BYTES_EACH = 2 * 1024 * 1024;
/** A search may name days from today on, which nobody tells when they pass. */
const MOST_AGE_MS = 60_000;

const REMEMBERED: ReadonlySet<string> = new Set(
  (Object.keys(ROUTES) as Route[])
    .filter((route) => ROUTES[route].isRemembered)
    .map((route) => route.replace('GET ', '')),
);

/**
 * Keeps answers as the bytes that were sent, for each person by themselves, until anything in the store or in who may see it
 * has changed. Who asks the same meanwhile waits for the one answer.
 */
@Injectable()
export class AnswersInMemory implements NestInterceptor {
  private readonly answers = new LRUCache<string, KeptAnswer>({
    maxSize: MOST_BYTES,
    sizeCalculation: ({ json }, key) => json.length + key.length + 1,
    ttl: MOST_AGE_MS,
  });
  private readonly underWay = new Map<string, UnderWay>();

  constructor(
    private readonly marks: Marks,
    private readonly access: AccessService,
  ) {}

  /** Answers at once what is in memory, for those whom it was worked out for; anything else goes on. */
  async answer(request: Request, response: Response, next: NextFunction): Promise<void> {
    const mark = request.method === 'GET' && REMEMBERED.has(request.path) ? markOf(this.marks) : undefined;
    const credential = mark === undefined ? undefined : credentialOf(request);
    const entry = credential && (await this.access.entryOf(credential));
    const known = entry && this.answers.get(keyOf(entry.person, request));
    if (!credential || !known || known.mark !== mark) return next();
    void this.access.noteUse(credential.token).catch(() => undefined);
    response.setHeader('Content-Type', 'application/json; charset=utf-8');
    response.setHeader('Content-Length', known.json.length);
    response.end(known.json);
  }

  intercept(context: ExecutionContext, handler: CallHandler): Observable<unknown> {
    const { facts } = routeOf(context);
    const request = context.switchToHttp().getRequest<SharedRequest & { person?: Person }>();
    const mark = facts.isRemembered ? markOf(this.marks) : undefined;
    if (mark === undefined || !request.person) return handler.handle();
    const response = context.switchToHttp().getResponse<Response>();
    return from(this.keep(keyOf(request.person, request), mark, { request, response, handler }));
  }

  private async keep(
    key: string,
    mark: string,
    { request, response, handler }: { request: SharedRequest; response: Response; handler: CallHandler },
  ): Promise<JsonBytes> {
    // The mark was read before anything else was, so that the answer is at least as new.
    const asked = `${mark} ${key}`;
    const known = this.underWay.get(asked);
    if (known && !known.askers.signal.aborted) {
      known.askers.join(response);
      return new JsonBytes(await known.json);
    }
    request.askers = new Askers();
    request.askers.join(response);
    const json = bytesOf(handler);
    this.underWay.set(asked, { json, askers: request.askers });
    try {
      const bytes = await json;
      if (bytes.length <= MOST_BYTES_EACH) this.answers.set(key, { mark, json: bytes });
      return new JsonBytes(bytes);
    } finally {
      this.underWay.delete(asked);
    }
  }
}

interface UnderWay {
  readonly json: Promise<Buffer>;
  readonly askers: Askers;
}

async function bytesOf(handler: CallHandler): Promise<Buffer> {
  const answer: unknown = await lastValueFrom(handler.handle());
  return answer instanceof JsonBytes ? Buffer.from(answer.bytes) : Buffer.from(JSON.stringify(answer));
}

/** The address as it was sent: the same question in other words is asked again, and that is all. */
function keyOf({ id, role }: Person, { originalUrl }: Request): string {
  return `${id} ${role} ${originalUrl}`;
}
