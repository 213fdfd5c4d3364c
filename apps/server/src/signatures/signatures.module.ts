import { Module } from '@nestjs/common';
import { AppOptions } from '../app-options.js';
import { SignaturesService } from './signatures.service.js';
import { SigningKey } from './signing-key.js';

/** What people sign with their password. */
@Module({
  providers: [
    {
      provide: SigningKey,
      inject: [AppOptions],
      useFactory: ({ blobFolder }: AppOptions) => new SigningKey(blobFolder),
    },
    SignaturesService,
  ],
  exports: [SignaturesService, SigningKey],
})
export class SignaturesModule {}
