import { Controller, Get, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { Feed } from './feed.js';

const ALIVE_MS = 20_000;

/** Server-sent events (HTML Living Standard, 9.2): one line of JSON with the kinds of what changed. */
@Controller('api/feed')
export class FeedController {
  constructor(private readonly feed: Feed) {}

  @Get()
  stream(@Req() request: Request, @Res() response: Response): void {
    response.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-cache, no-transform',
    });
    response.write('retry: 1000\n\n');
    const stop = this.feed.listen((kinds) => response.write(`data: ${JSON.stringify(kinds)}\n\n`));
    const alive = setInterval(() => response.write(': alive\n\n'), ALIVE_MS);
    request.on('close', () => {
      clearInterval(alive);
      stop();
    });
  }
}
