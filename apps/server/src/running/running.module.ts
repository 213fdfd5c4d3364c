import { Module } from '@nestjs/common';
import { ApiDocsController } from './api-docs.controller.js';
import { HealthController } from './health.controller.js';

/** How the server is, and what it answers. */
@Module({
  controllers: [HealthController, ApiDocsController],
})
export class RunningModule {}
