import { Module } from '@nestjs/common';
import { AccessModule } from '../access/access.module.js';
import { BlobsModule } from '../blobs/blobs.module.js';
import { JobsModule } from '../jobs/jobs.module.js';
import { MeshesModule } from '../meshes/meshes.module.js';
import { QueueModule } from '../queue/queue.module.js';
import { StoreModule } from '../store/store.module.js';
import { WorkModule } from '../work/work.module.js';
import { FileReader } from './file-reader.js';
import { IntakeRunner } from './intake-runner.js';
import { IntakeController } from './intake.controller.js';
import { IntakeService } from './intake.service.js';
import { StagedFilesService } from './staged-files.service.js';
import { Unpacker } from './unpacker.js';

/** Files on their way in. */
@Module({
  imports: [AccessModule, BlobsModule, JobsModule, MeshesModule, QueueModule, StoreModule, WorkModule],
  controllers: [IntakeController],
  providers: [FileReader, Unpacker, IntakeRunner, IntakeService, StagedFilesService],
  exports: [IntakeService],
})
export class IntakeModule {}
