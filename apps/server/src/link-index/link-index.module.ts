import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AppOptions } from '../app-options.js';
import { IndexSource } from './index-source.js';
import { LinkIndexHost } from './link-index-host.js';

/** The structure in memory. */
@Module({
  providers: [
    {
      provide: LinkIndexHost,
      useFactory: ({ databaseUrl }: AppOptions, database: DataSource) =>
        new LinkIndexHost(databaseUrl, database),
      inject: [AppOptions, DataSource],
    },
    { provide: IndexSource, useExisting: LinkIndexHost },
  ],
  exports: [IndexSource],
})
export class LinkIndexModule {}
