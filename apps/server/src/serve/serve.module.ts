import { Module } from '@nestjs/common';
import { APP_FILTER, APP_GUARD, APP_INTERCEPTOR } from '@nestjs/core';
import { AccessModule } from '../access/access.module.js';
import { FeedModule } from '../feed/feed.module.js';
import { ProblemFilter } from '../problems/problem.filter.js';
import { AccessGuard } from './access.guard.js';
import { AnswersInMemory } from './answers-in-memory.js';
import { SendBytes } from './send-bytes.js';

/** How every route is served. */
@Module({
  imports: [AccessModule, FeedModule],
  providers: [
    AnswersInMemory,
    { provide: APP_GUARD, useClass: AccessGuard },
    { provide: APP_FILTER, useClass: ProblemFilter },
    { provide: APP_INTERCEPTOR, useClass: SendBytes },
    { provide: APP_INTERCEPTOR, useExisting: AnswersInMemory },
  ],
  exports: [AnswersInMemory],
})
export class ServeModule {}
