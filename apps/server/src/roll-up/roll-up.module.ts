import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppOptions } from '../app-options.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { RollUpsService, type RollUpsNeeds } from './roll-ups.service.js';

/** What assemblies weigh and cost. */
@Module({
  imports: [FeedModule, QueueModule],
  providers: [
    {
      provide: RollUpsService,
      useFactory: (options: AppOptions, ...needs: RollUpsNeeds) =>
        new RollUpsService(options.worksInBackground === true, ...needs),
      inject: [AppOptions, DataSource, Feed, JobQueue],
    },
  ],
  exports: [RollUpsService],
})
export class RollUpModule {}
