import { Module } from '@nestjs/common';
import { BlobsModule } from '../blobs/blobs.module.js';
import { JobsModule } from '../jobs/jobs.module.js';
import { StoreModule } from '../store/store.module.js';
import { FilesController } from './files.controller.js';
import { FilesService } from './files.service.js';

/** One file and its text. */
@Module({
  imports: [BlobsModule, JobsModule, StoreModule],
  controllers: [FilesController],
  providers: [FilesService],
})
export class FilesModule {}
