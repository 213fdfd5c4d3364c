import { Module } from '@nestjs/common';
import { FeedModule } from '../feed/feed.module.js';
import { AccessService } from './access.service.js';
import { RightsService } from './rights.service.js';
import { SignInLimits } from './sign-in-limits.js';

/** Who somebody is, and what they may. */
@Module({
  imports: [FeedModule],
  providers: [SignInLimits, AccessService, RightsService],
  exports: [AccessService, RightsService],
})
export class AccessModule {}
