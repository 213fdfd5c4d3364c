import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppOptions } from '../app-options.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { JobQueue } from './job-queue.js';
import { JobsController } from './jobs.controller.js';
import { JobsService } from './jobs.service.js';

/** Work that goes on while nobody waits for it. */
@Module({
  imports: [FeedModule],
  controllers: [JobsController],
  providers: [
    JobsService,
    {
      provide: JobQueue,
      useFactory: ({ databaseUrl }: AppOptions, database: DataSource, feed: Feed) =>
        new JobQueue(databaseUrl, database, feed),
      inject: [AppOptions, DataSource, Feed],
    },
  ],
  exports: [JobQueue, JobsService],
})
export class QueueModule {}
