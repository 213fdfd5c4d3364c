import { Module } from '@nestjs/common';
import { AppOptions } from '../app-options.js';
import { BlobStore } from './blob-store.js';
import { Sweeper } from './sweeper.js';

/** Bytes of files. */
@Module({
  providers: [
    Sweeper,
    {
      provide: BlobStore,
      useFactory: ({ blobFolder }: AppOptions) => new BlobStore(blobFolder),
      inject: [AppOptions],
    },
  ],
  exports: [BlobStore],
})
export class BlobsModule {}
