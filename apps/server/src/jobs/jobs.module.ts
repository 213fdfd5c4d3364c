import { Module } from '@nestjs/common';
import { AppOptions } from '../app-options.js';
import { DocumentPool } from './document-pool.js';
import { HandOutPool } from './hand-out-pool.js';
import { Pauses } from './pauses.js';
import { ReaderPool } from './reader-pool.js';
import { TessellatePool } from './tessellate-pool.js';

/** Processes with limits, for what came from somewhere. */
@Module({
  providers: [
    { provide: Pauses, useFactory: () => new Pauses() },
    { provide: DocumentPool, useFactory: () => new DocumentPool() },
    { provide: HandOutPool, useFactory: () => new HandOutPool() },
    {
      provide: ReaderPool,
      useFactory: ({ pools }: AppOptions) => pools?.readers ?? new ReaderPool(),
      inject: [AppOptions],
    },
    {
      provide: TessellatePool,
      useFactory: ({ pools }: AppOptions) => pools?.tessellators ?? new TessellatePool(),
      inject: [AppOptions],
    },
  ],
  exports: [DocumentPool, Pauses, HandOutPool, ReaderPool, TessellatePool],
})
export class JobsModule {}
