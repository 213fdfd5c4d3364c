import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppOptions } from '../app-options.js';
import type { StoreDataSource } from '../database/store-data-source.js';
import { FeedModule } from '../feed/feed.module.js';
import { Freshness } from '../feed/freshness.js';
import { IndexSource } from '../link-index/index-source.js';
import { LinkIndexModule } from '../link-index/link-index.module.js';
import { InlineWork } from './inline-work.js';
import { WorkHost } from './work-host.js';

/** What grows with trees, sheets or files, done on threads. */
@Module({
  imports: [FeedModule, LinkIndexModule],
  providers: [
    {
      provide: WorkHost,
      useFactory: (
        { databaseUrl, blobFolder, worksInBackground }: AppOptions,
        database: StoreDataSource,
        index: IndexSource,
        freshness: Freshness,
        { compose }: InlineWork,
      ) => {
        const isWarm = worksInBackground === true;
        const options = { databaseUrl, blobFolder, isOwner: database.isOwner, isWarm };
        return new WorkHost(options, index, freshness, compose?.(options));
      },
      inject: [AppOptions, DataSource, IndexSource, Freshness, InlineWork],
    },
  ],
  exports: [WorkHost],
})
export class WorkModule {}
