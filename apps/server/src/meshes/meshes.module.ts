import { Module } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { AccessModule } from '../access/access.module.js';
import { RightsService } from '../access/rights.service.js';
import { AppOptions } from '../app-options.js';
import { BlobStore } from '../blobs/blob-store.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { Feed } from '../feed/feed.js';
import { FeedModule } from '../feed/feed.module.js';
import { JobsModule } from '../jobs/jobs.module.js';
import { Pauses } from '../jobs/pauses.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { JobQueue } from '../queue/job-queue.js';
import { QueueModule } from '../queue/queue.module.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { KeptScenesService } from './kept-scenes.service.js';
import { MeshesController } from './meshes.controller.js';
import { MeshesService } from './meshes.service.js';
import { OverlapsService } from './overlaps.service.js';
import { ShapesService, type ShapesNeeds } from './shapes.service.js';

/** Three dimensions, and which parts are alike. */
@Module({
  imports: [AccessModule, BlobsModule, FeedModule, JobsModule, QueueModule, StoreModule, WorkModule],
  controllers: [MeshesController],
  providers: [
    MeshesService,
    KeptScenesService,
    OverlapsService,
    {
      provide: ShapesService,
      useFactory: (options: AppOptions, ...needs: ShapesNeeds) =>
        new ShapesService(options.worksInBackground === true, ...needs),
      inject: [
        AppOptions,
        DataSource,
        BlobStore,
        TessellatePool,
        CatalogueService,
        RightsService,
        Feed,
        Pauses,
        JobQueue,
      ],
    },
  ],
  exports: [MeshesService, ShapesService],
})
export class MeshesModule {}
