import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { RightsService } from '../access/rights.service.js';
import { AppOptions } from '../app-options.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { StoreModule } from '../store/store.module.js';
import { FeedController } from './feed.controller.js';
import { MailService } from './mail.service.js';
import { NoticesController } from './notices.controller.js';
import { NoticesService } from './notices.service.js';
import { OpenFeeds } from './open-feeds.js';
import { WaysService } from './ways.service.js';

/** What somebody is told, and how. */
@Module({
  imports: [AccessModule, FeedModule, QueueModule, StoreModule],
  controllers: [NoticesController, FeedController],
  providers: [
    NoticesService,
    OpenFeeds,
    WaysService,
    {
      provide: MailService,
      useFactory: (
        options: AppOptions,
        database: DataSource,
        rights: RightsService,
        feed: Feed,
        queue: JobQueue,
      ) =>
        new MailService(
          {
            address: options.settings?.mailAddress ?? '',
            from: options.settings?.mailFrom ?? '',
            publicAddress: options.settings?.publicAddress ?? '',
            inBackground: options.worksInBackground === true,
          },
          ...([database, rights, feed, queue] as const),
        ),
      inject: [AppOptions, DataSource, RightsService, Feed, JobQueue],
    },
  ],
})
export class NoticesModule {}
