import { Injectable } from '@nestjs/common';
import type { Response } from 'express';

/** Answers that go on for as long as somebody listens. */
@Injectable()
export class OpenFeeds {
  private readonly open = new Set<Response>();

  add(response: Response): void {
    this.open.add(response);
    response.once('close', () => this.open.delete(response));
  }

  endAll(): void {
    for (const response of this.open) response.end();
  }
}
