import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { AppOptions } from '../app-options.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { WebhooksController } from './webhooks.controller.js';
import { WebhooksService } from './webhooks.service.js';

/** Other programs that are told what happens. */
@Module({
  imports: [AccessModule, FeedModule, QueueModule],
  controllers: [WebhooksController],
  providers: [
    {
      provide: WebhooksService,
      useFactory: (options: AppOptions, database: DataSource, feed: Feed, queue: JobQueue) =>
        new WebhooksService(options.worksInBackground === true, database, feed, queue),
      inject: [AppOptions, DataSource, Feed, JobQueue],
    },
  ],
})
export class WebhooksModule {}
