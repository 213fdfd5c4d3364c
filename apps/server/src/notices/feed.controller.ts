import { Controller, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { credentialOf } from '../serve/access.guard.js';
import { AccessService } from '../access/access.service.js';
import { Feed } from '../feed/feed.js';
import { OpenFeeds } from './open-feeds.js';
import { Freshness } from '../feed/freshness.js';
import { Serve } from '../serve/serve.js';

const ALIVE_MS = 20_000;

/** Server-sent events (HTML Living Standard, 9.2): one line of JSON with the kinds of what changed. */
@Controller()
export class FeedController {
  constructor(
    private readonly feed: Feed,
    private readonly freshness: Freshness,
    private readonly access: AccessService,
    private readonly feeds: OpenFeeds,
  ) {}

  @Serve('GET /api/feed')
  stream(@Req() request: Request, @Res() response: Response): void {
    response.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-cache, no-transform',
    });
    this.feeds.add(response);
    response.write('retry: 1000\n\n');
    const stop = this.feed.listen((kinds) => response.write(`data: ${JSON.stringify(kinds)}\n\n`));
    const credential = credentialOf(request);
    // Close the stream when access is revoked.
    const check = (): void => {
      void (credential ? this.access.entryOf(credential) : Promise.resolve(undefined)).then(
        (entry) => entry ?? response.end(),
        () => response.end(),
      );
    };
    const stopChecking = this.freshness.onChange('access', check);
    const alive = setInterval(() => {
      response.write(': alive\n\n');
      check();
    }, ALIVE_MS);
    response.on('close', () => {
      clearInterval(alive);
      stop();
      stopChecking();
    });
  }
}
