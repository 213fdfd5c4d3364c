import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import { StructureTooLarge } from '@stem-trace/core';
import type { Response } from 'express';
import { ProblemError } from './problem.js';

/** Turns whatever a request failed with into problem details; what nobody foresaw is logged and said to be ours. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly logger = new Logger('problem');

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const problem = this.toProblem(error);
    if (response.headersSent) {
      response.destroy();
      return;
    }
    response
      .status(problem.status)
      .type('application/problem+json')
      .send(JSON.stringify(problem.toProblem()));
  }

  private toProblem(error: unknown): ProblemError {
    if (error instanceof ProblemError) return error;
    if (error instanceof StructureTooLarge) return new ProblemError('STRUCTURE_TOO_LARGE', error.message);
    if (error instanceof HttpException && error.getStatus() === 404) {
      return new ProblemError('NOT_FOUND', 'There is nothing at this address.');
    }
    if (error instanceof HttpException && error.getStatus() < 500)
      return new ProblemError('INPUT_INVALID', error.message);
    if (isBodyError(error))
      return new ProblemError(error.status === 413 ? 'FILE_TOO_LARGE' : 'INPUT_INVALID', error.message);
    this.logger.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
    return new ProblemError(
      'INTERNAL',
      'Something went wrong on our side; nothing was changed. Try again, and tell the administrator if it stays.',
    );
  }
}

function isBodyError(error: unknown): error is Error & { status: number } {
  return (
    error instanceof Error &&
    'status' in error &&
    typeof error.status === 'number' &&
    error.status >= 400 &&
    error.status < 500
  );
}
