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
    this.logger.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    return new ProblemError(
      'INTERNAL',
      'Something went wrong on our side; nothing was changed. Try again, and tell the administrator if it stays.',
    );
  }
}
