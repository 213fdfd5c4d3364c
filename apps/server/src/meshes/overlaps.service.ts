import { Injectable } from '@nestjs/common';
import type { OverlapsAnswer, OverlapsProgress, OverlapsQuestion } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { AskedJobs, type AskedJob } from '../queue/asked-jobs.js';
import type { Job } from '../queue/job.js';
import { JobQueue } from '../queue/job-queue.js';
import { JobsService } from '../queue/jobs.service.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { WorkHost } from '../work/work-host.js';

/** What touches and overlaps, as a job: of a large product all pairs take half a minute and more. */
@Injectable()
export class OverlapsService {
  private readonly asked: AskedJobs<'overlaps', OverlapsAnswer>;

  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly work: WorkHost,
    queue: JobQueue,
    jobs: JobsService,
  ) {
    this.asked = new AskedJobs('overlaps', queue, jobs);
    queue.handle('overlaps', { atOnce: 1, work: (job) => this.find(job) });
  }

  /** How far the answer is; it is begun where there is none. @throws ProblemError that it ended with; JOB_CANCELLED */
  async ask(
    { again, ...question }: OverlapsQuestion & { readonly again: boolean },
    person: Person,
  ): Promise<OverlapsProgress> {
    const { job, answer } = await this.asked.ask(await this.jobOf(question, person), { again, person });
    return { job, found: answer };
  }

  /** Waits for the answer. @throws as `ask` */
  async found(question: OverlapsQuestion, person: Person, asker: AbortSignal): Promise<OverlapsAnswer> {
    return this.asked.answerOf(await this.jobOf(question, person), person, asker);
  }

  private async jobOf(question: OverlapsQuestion, person: Person): Promise<AskedJob<'overlaps'>> {
    const { item, lens, of = '', to = '', nodes, without } = question;
    const { id } = await this.catalogue.resolve(item, person);
    return {
      key: JSON.stringify([id, lens, of, to, nodes, without]),
      input: { question },
      about: `What touches and overlaps in ${item}`,
    };
  }

  private async find({ kind, id, owner, input, personId }: Job<'overlaps'>): Promise<OverlapsAnswer> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: personId ?? '' });
    return this.work.ask('overlaps', { ...input, job: { kind, id, owner } }, person);
  }
}
