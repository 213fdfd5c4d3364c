import { Controller } from '@nestjs/common';
import type { JobView } from '@stem-trace/contract';
import { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Input, Serve } from '../serve/serve.js';
import { JobsService, type JobRequest } from './jobs.service.js';

@Controller()
export class JobsController {
  constructor(private readonly jobs: JobsService) {}

  @Serve('GET /api/jobs')
  list(@Caller() person: Person): Promise<JobView[]> {
    return this.jobs.list(person);
  }

  @Serve('POST /api/jobs/cancel')
  cancel(@Input() request: JobRequest, @Caller() person: Person): Promise<void> {
    return this.jobs.cancel(request, person);
  }

  @Serve('POST /api/jobs/retry')
  retry(@Input() request: JobRequest, @Caller() person: Person): Promise<void> {
    return this.jobs.retry(request, person);
  }
}
