import type { JobKind, JobView } from '@stem-trace/contract';
import type { Person } from '../database/entities/person.js';
import type { JobInputs } from './job.js';
import type { JobQueue } from './job-queue.js';
import type { JobsService } from './jobs.service.js';
import { endOf, outcomeOf } from './outcome.js';

export interface AskedJob<K extends JobKind> {
  /** What is asked, so that the same question of the same person is one job, whoever of their windows asks. */
  readonly key: string;
  readonly input: JobInputs[K];
  /** What it is about, in words. */
  readonly about: string;
}

/** Questions whose answers take longer than anybody waits: they go on as jobs, and are asked for again. */
export class AskedJobs<K extends JobKind, Answer> {
  constructor(
    private readonly kind: K,
    private readonly queue: JobQueue,
    private readonly jobs: JobsService,
  ) {}

  /**
   * How far the answer is; it is begun where there is none.
   *
   * @param again even if there is an answer already
   * @throws ProblemError that it ended with; JOB_CANCELLED
   */
  async ask(
    job: AskedJob<K>,
    { again, person }: { readonly again: boolean; readonly person: Person },
  ): Promise<{ readonly job: JobView; readonly answer: Answer | null }> {
    const { kind, queue } = this;
    const id = this.idOf(job, person);
    const known = await queue.find(kind, id);
    if (!known || (again && endOf(known) !== undefined)) await this.send(id, job, person);
    const row = await queue.find(kind, id);
    const isOver = row !== undefined && endOf(row) !== undefined;
    return {
      job: await this.jobs.view({ kind, id }, person),
      answer: isOver ? (outcomeOf(row) as Answer) : null,
    };
  }

  /** Begins it, or waits for the one that is under way. @throws as `ask` */
  async answerOf(job: AskedJob<K>, person: Person, asker: AbortSignal): Promise<Answer> {
    const id = this.idOf(job, person);
    await this.send(id, job, person);
    return (await this.queue.outcome(this.kind, id, asker)) as Answer;
  }

  private idOf({ key }: AskedJob<K>, person: Person): string {
    return this.queue.idOf(this.kind, `${key} ${person.id}`);
  }

  private async send(id: string, { input, about }: AskedJob<K>, person: Person): Promise<void> {
    await this.queue.send(this.kind, id, { input, about, personId: person.id });
  }
}
