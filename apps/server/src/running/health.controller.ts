import { Controller, Res } from '@nestjs/common';
import type { Health } from '@stem-trace/contract';
import type { Response } from 'express';
import { DataSource } from 'typeorm';
import { Serve } from '../serve/serve.js';
import { VERSION } from './version.js';

/** For whoever watches over the server. */
@Controller()
export class HealthController {
  constructor(private readonly database: DataSource) {}

  @Serve('GET /health')
  health(): Health {
    return { status: 'ok', version: VERSION };
  }

  /** Whether it can answer: 503 where the database does not. */
  @Serve('GET /ready')
  async ready(@Res({ passthrough: true }) response: Response): Promise<Health> {
    const isReady = await this.database.query('SELECT 1').then(
      () => true,
      () => false,
    );
    if (!isReady) response.status(503);
    return { status: isReady ? 'ok' : 'not ready', version: VERSION };
  }
}
