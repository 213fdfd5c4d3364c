import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { JobsModule } from '../jobs/jobs.module.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { StructureModule } from '../structure/structure.module.js';
import { SettingsModule } from '../settings/settings.module.js';
import { IssuedModule } from '../issued/issued.module.js';
import { FetchTreeService } from './fetch-tree.js';
import { FetchController } from './fetch.controller.js';
import { FetchService } from './fetch.service.js';

/** Files on their way out. */
@Module({
  imports: [
    ...[AccessModule, BlobsModule, IssuedModule, JobsModule, SettingsModule],
    ...[StoreModule, StructureModule, WorkModule],
  ],
  controllers: [FetchController],
  providers: [FetchTreeService, FetchService],
})
export class FetchModule {}
