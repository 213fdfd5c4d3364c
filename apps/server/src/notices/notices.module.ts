import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { FeedModule } from '../feed/feed.module.js';
import { StoreModule } from '../store/store.module.js';
import { FeedController } from './feed.controller.js';
import { NoticesController } from './notices.controller.js';
import { NoticesService } from './notices.service.js';
import { OpenFeeds } from './open-feeds.js';

/** What somebody is told. */
@Module({
  imports: [AccessModule, FeedModule, StoreModule],
  controllers: [NoticesController, FeedController],
  providers: [NoticesService, OpenFeeds],
})
export class NoticesModule {}
