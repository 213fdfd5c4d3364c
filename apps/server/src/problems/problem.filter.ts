import { randomUUID } from 'node:crypto';
import { Catch, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import type { Response } from 'express';
import { ProblemError } from './problem.js';
import { problemOf } from './to-problem.js';

/** Turns whatever a request failed with into problem details; what nobody foresaw is logged and said to be ours. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly logger = new Logger('problem');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const problem = problemOf(error) ?? this.unforeseen(error);
    if (problem.status >= 500 && problem !== error) this.logger.warn(String(error));
    if (response.headersSent) {
      response.destroy();
      return;
    }
    if (problem.status === 503) response.setHeader('Retry-After', '2');
    response
      .status(problem.status)
      .type('application/problem+json')
      .send(JSON.stringify(problem.toProblem()));
  }

  private unforeseen(error: unknown): ProblemError {
    const reference = randomUUID().slice(0, 8);
    const what = error instanceof Error ? (error.stack ?? error.message) : String(error);
    this.logger.error(`${reference} ${what}`);
    return new ProblemError(
      'INTERNAL',
      `The server failed at this; nothing was changed. Try again, and give the administrator the reference ${reference} if this keeps happening: the log has it.`,
    );
  }
}
