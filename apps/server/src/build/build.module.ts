import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { RightsService } from '../access/rights.service.js';
import { AppOptions } from '../app-options.js';
import { BlobStore } from '../blobs/blob-store.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { BomTreeService } from '../bom/bom-tree.service.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { SettingsModule } from '../settings/settings.module.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { StoreModule } from '../store/store.module.js';
import { StoreTurn } from '../store/turn.js';
import { StructureLoader } from '../structure/structure-loader.js';
import { StructureModule } from '../structure/structure.module.js';
import { WorkModule } from '../work/work.module.js';
import { BillContents } from './bill-contents.js';
import { BillsService } from './bills.service.js';
import { BuildController } from './build.controller.js';
import { EngineeringService } from './engineering.service.js';
import { ReleasesService } from './releases.service.js';
import { UsedBesidesService } from './used-besides.service.js';

/** Bills: manufacturing BOMs, their releases, and what planning is sent. */
@Module({
  imports: [
    AccessModule,
    BlobsModule,
    FeedModule,
    QueueModule,
    SettingsModule,
    StoreModule,
    StructureModule,
    WorkModule,
  ],
  controllers: [BuildController],
  providers: [
    { provide: BillContents, useFactory: (blobs: BlobStore) => new BillContents(blobs), inject: [BlobStore] },
    {
      provide: EngineeringService,
      useFactory: (
        database: DataSource,
        catalogue: CatalogueService,
        loader: StructureLoader,
        rights: RightsService,
        contents: BillContents,
      ) =>
        new EngineeringService(catalogue, new BomTreeService(database, catalogue, loader, contents), rights),
      inject: [DataSource, CatalogueService, StructureLoader, RightsService, BillContents],
    },
    {
      provide: BillsService,
      useFactory: (...needs: ConstructorParameters<typeof BillsService>) => new BillsService(...needs),
      inject: [DataSource, StoreTurn, CatalogueService, RightsService, BillContents, EngineeringService],
    },
    {
      provide: UsedBesidesService,
      useFactory: (...needs: ConstructorParameters<typeof UsedBesidesService>) =>
        new UsedBesidesService(...needs),
      inject: [DataSource, CatalogueService, RightsService],
    },
    {
      provide: ReleasesService,
      useFactory: (
        options: AppOptions,
        database: DataSource,
        catalogue: CatalogueService,
        rights: RightsService,
        blobs: BlobStore,
        feed: Feed,
        queue: JobQueue,
      ) =>
        new ReleasesService(
          {
            planningAddress: options.settings?.planningAddress ?? '',
            inBackground: options.worksInBackground === true,
          },
          ...([database, catalogue, rights, blobs, feed, queue] as const),
        ),
      inject: [AppOptions, DataSource, CatalogueService, RightsService, BlobStore, Feed, JobQueue],
    },
  ],
  exports: [ReleasesService],
})
export class BuildModule {}
