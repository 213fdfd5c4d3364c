import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppOptions } from '../app-options.js';
import { Feed } from './feed.js';
import { Freshness, Marks } from './freshness.js';

/** What changed, for people and for what is kept in memory. */
@Module({
  providers: [
    {
      provide: Feed,
      useFactory: ({ databaseUrl }: AppOptions, freshness: Freshness) =>
        new Feed(databaseUrl, () => freshness.settle()),
      inject: [AppOptions, Freshness],
    },
    {
      provide: Freshness,
      useFactory: ({ databaseUrl }: AppOptions, database: DataSource) => new Freshness(databaseUrl, database),
      inject: [AppOptions, DataSource],
    },
    { provide: Marks, useExisting: Freshness },
  ],
  exports: [Feed, Freshness, Marks],
})
export class FeedModule {}
