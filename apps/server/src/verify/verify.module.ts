import { Module } from '@nestjs/common';
import { BlobsModule } from '../blobs/blobs.module.js';
import { SignaturesModule } from '../signatures/signatures.module.js';
import { VerifyController } from './verify.controller.js';
import { VerifyService } from './verify.service.js';

/** Whether the store holds together. */
@Module({
  imports: [BlobsModule, SignaturesModule],
  controllers: [VerifyController],
  providers: [VerifyService],
})
export class VerifyModule {}
