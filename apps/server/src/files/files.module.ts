import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { JobsModule } from '../jobs/jobs.module.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { FilesController } from './files.controller.js';
import { DocumentsService } from './documents.service.js';
import { FilesService } from './files.service.js';

/** One file, its text, and what an office document looks like. */
@Module({
  imports: [AccessModule, BlobsModule, JobsModule, StoreModule, WorkModule],
  controllers: [FilesController],
  providers: [FilesService, DocumentsService],
})
export class FilesModule {}
