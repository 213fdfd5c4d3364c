import { Injectable } from '@nestjs/common';
import type { ProofAnswer } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { Person } from '../database/entities/person.js';
import type { Job } from '../queue/job.js';
import { JobQueue } from '../queue/job-queue.js';
import { JobsService } from '../queue/jobs.service.js';
import { endOf, outcomeOf } from '../queue/outcome.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { WorkHost } from '../work/work-host.js';

/** Two proofs read on as many threads as there are; more would only wait. */
const AT_ONCE = 2;

export interface ProofRequest {
  readonly item: string;
  /** Even if there is a proof already. */
  readonly again: boolean;
}

/** Proofs as jobs: one at a time of a variant for each person, whoever of their windows asks. */
@Injectable()
export class ProofsService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly work: WorkHost,
    private readonly queue: JobQueue,
    private readonly jobs: JobsService,
  ) {
    queue.handle('proof', { atOnce: AT_ONCE, work: (job) => this.prove(job) });
  }

  /**
   * How far the proof of a variant is; it is begun where there is none.
   *
   * @throws ProblemError that the proof ended with; JOB_CANCELLED
   */
  async ask({ item, again }: ProofRequest, person: Person): Promise<ProofAnswer> {
    const id = await this.idOf(item, person);
    const known = await this.queue.find('proof', id);
    if (!known || (again && endOf(known) !== undefined)) await this.send(id, item, person);
    const row = await this.queue.find('proof', id);
    const isOver = row !== undefined && endOf(row) !== undefined;
    return {
      proof: isOver ? (outcomeOf(row) as Proof) : null,
      job: await this.jobs.view({ kind: 'proof', id }, person),
    };
  }

  /** Proves a variant, or waits for the proof that is under way. @throws as `ask` */
  async proofOf(item: string, person: Person, asker: AbortSignal): Promise<Proof> {
    const id = await this.idOf(item, person);
    await this.send(id, item, person);
    return (await this.queue.outcome('proof', id, asker)) as Proof;
  }

  private async idOf(item: string, person: Person): Promise<string> {
    const { itemId } = await this.catalogue.resolve(item, person, 'fetch');
    return this.queue.idOf('proof', `${itemId} ${person.id}`);
  }

  private async send(id: string, item: string, person: Person): Promise<void> {
    await this.queue.send('proof', id, { input: { item }, about: `Proof of ${item}`, personId: person.id });
  }

  private async prove({ kind, id, owner, input, personId }: Job<'proof'>): Promise<Proof> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: personId ?? '' });
    return this.work.ask('proof', { ...input, job: { kind, id, owner } }, person);
  }
}
