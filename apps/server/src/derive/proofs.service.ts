import { Injectable } from '@nestjs/common';
import type { ProofAnswer } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { AskedJobs, type AskedJob } from '../queue/asked-jobs.js';
import type { Job } from '../queue/job.js';
import { JobQueue } from '../queue/job-queue.js';
import { JobsService } from '../queue/jobs.service.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { WorkHost } from '../work/work-host.js';

/** Two proofs read on as many threads as there are; more would only wait. */
const AT_ONCE = 2;

export interface ProofRequest {
  readonly item: string;
  /** Even if there is a proof already. */
  readonly again: boolean;
}

/** Proofs as jobs: one at a time of a variant for each person. */
@Injectable()
export class ProofsService {
  private readonly asked: AskedJobs<'proof', Proof>;

  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly work: WorkHost,
    queue: JobQueue,
    jobs: JobsService,
  ) {
    this.asked = new AskedJobs('proof', queue, jobs);
    queue.handle('proof', { atOnce: AT_ONCE, work: (job) => this.prove(job) });
  }

  /** How far the proof of a variant is; it is begun where there is none. @throws ProblemError that the proof ended with; JOB_CANCELLED */
  async ask({ item, again }: ProofRequest, person: Person): Promise<ProofAnswer> {
    const { job, answer } = await this.asked.ask(await this.jobOf(item, person), { again, person });
    return { job, proof: answer };
  }

  /** Proves a variant, or waits for the proof that is under way. @throws as `ask` */
  async proofOf(item: string, person: Person, asker: AbortSignal): Promise<Proof> {
    return this.asked.answerOf(await this.jobOf(item, person), person, asker);
  }

  private async jobOf(item: string, person: Person): Promise<AskedJob<'proof'>> {
    const { itemId } = await this.catalogue.resolve(item, person, 'fetch');
    return { key: itemId, input: { item }, about: `Proof of ${item}` };
  }

  private async prove({ kind, id, owner, input, personId }: Job<'proof'>): Promise<Proof> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: personId ?? '' });
    return this.work.ask('proof', { ...input, job: { kind, id, owner } }, person);
  }
}
