import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { RightsService } from '../access/rights.service.js';
import { AppOptions } from '../app-options.js';
import { BlobStore } from '../blobs/blob-store.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { BillContents } from '../build/bill-contents.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { MeshesModule } from '../meshes/meshes.module.js';
import { MeshesService } from '../meshes/meshes.service.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { SettingsModule } from '../settings/settings.module.js';
import { SettingsService } from '../settings/settings.service.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { StoreModule } from '../store/store.module.js';
import { WorkHost } from '../work/work-host.js';
import { WorkModule } from '../work/work.module.js';
import { IssuedController } from './issued.controller.js';
import { IssuedService } from './issued.service.js';
import { Issuing } from './issuing.js';

/** Neutral files that are made when something is released. */
@Module({
  imports: [
    ...[AccessModule, BlobsModule, FeedModule, MeshesModule, QueueModule],
    ...[SettingsModule, StoreModule, WorkModule],
  ],
  controllers: [IssuedController],
  providers: [
    {
      provide: IssuedService,
      useFactory: (
        database: DataSource,
        catalogue: CatalogueService,
        rights: RightsService,
        blobs: BlobStore,
        settings: SettingsService,
      ) => new IssuedService(database, catalogue, rights, blobs, settings, new BillContents(blobs)),
      inject: [DataSource, CatalogueService, RightsService, BlobStore, SettingsService],
    },
    {
      provide: Issuing,
      useFactory: (options: AppOptions, ...needs: [DataSource, WorkHost, MeshesService, Feed, JobQueue]) =>
        new Issuing(options.worksInBackground === true, ...needs),
      inject: [AppOptions, DataSource, WorkHost, MeshesService, Feed, JobQueue],
    },
  ],
  exports: [IssuedService],
})
export class IssuedModule {}
