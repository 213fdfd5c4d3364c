import { createParamDecorator, type ExecutionContext } from '@nestjs/common';
import type { Request, Response } from 'express';

/** All who wait for one answer: they are gone when the last of them is. */
export class Askers {
  private readonly ending = new AbortController();
  private waiting = 0;

  get signal(): AbortSignal {
    return this.ending.signal;
  }

  join(response: Response): void {
    this.waiting++;
    response.once('close', () => {
      if (!response.writableFinished && --this.waiting === 0) this.ending.abort();
    });
  }
}

/** A request whose answer others wait for too. */
export interface SharedRequest extends Request {
  askers?: Askers;
}

/** Tells when whoever asked has gone before the answer. */
export const Asker = createParamDecorator((_: unknown, context: ExecutionContext): AbortSignal => {
  const http = context.switchToHttp();
  const shared = http.getRequest<SharedRequest>().askers;
  if (shared) return shared.signal;
  const askers = new Askers();
  askers.join(http.getResponse<Response>());
  return askers.signal;
});
