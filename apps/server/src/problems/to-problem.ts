import { HttpException } from '@nestjs/common';
import { StructureTooLarge } from '@stem-trace/core';
import { ProblemError } from './problem.js';

const AGAIN = 'Nothing was changed; try again in a moment.';

/**
 * What a failure means to whoever asked; undefined for what nobody foresaw.
 */
export function problemOf(error: unknown): ProblemError | undefined {
  if (error instanceof ProblemError) return error;
  if (error instanceof StructureTooLarge) return new ProblemError('STRUCTURE_TOO_LARGE', error.message);
  if (error instanceof HttpException && error.getStatus() === 404)
    return new ProblemError('NOT_FOUND', 'There is nothing at this address.');
  if (error instanceof HttpException && error.getStatus() < 500)
    return new ProblemError('INPUT_INVALID', error.message);
  if (isBodyError(error))
    return new ProblemError(error.status === 413 ? 'FILE_TOO_LARGE' : 'INPUT_INVALID', error.message);
  return ofSystem(error);
}

/** By the codes of PostgreSQL (appendix A of its manual), of its client and of the operating system. */
function ofSystem(error: unknown): ProblemError | undefined {
  if (!(error instanceof Error)) return undefined;
  const code = codeOf(error);
  if (code === 'ENOSPC' || code === 'EDQUOT' || code === '53100')
    return new ProblemError(
      'STORAGE_FULL',
      'There is no room left where the store keeps its files. Nothing was changed; tell the administrator.',
    );
  if (code === '55P03' || code === '40P01' || code === '40001')
    return new ProblemError('BUSY', `Somebody else is changing the same at this moment. ${AGAIN}`);
  // A text or number that passed every schema and that the database cannot hold all the same.
  if (/^22(003|007|008|021|023|P02|P03|P05)$/.test(code))
    return new ProblemError(
      'INPUT_INVALID',
      'What was sent holds a sign or a number that the store cannot keep. Nothing was changed.',
    );
  if (code === '57014')
    return new ProblemError(
      'TOO_COSTLY',
      'This question takes longer than the store allows. Nothing was changed; ask for less at once.',
    );
  if (code === '53300' || /timeout exceeded when trying to connect/i.test(error.message))
    return new ProblemError('BUSY', `The server has too much to do at this moment. ${AGAIN}`);
  // The asker has gone, or the connection of whoever worked for it was cut.
  if (error.name === 'AbortError' || /^(ECONNABORTED|ETIMEDOUT|ERR_STREAM_PREMATURE_CLOSE)$/.test(code))
    return new ProblemError('BUSY', `The connection was cut. ${AGAIN}`);
  if (isDatabaseAway(error))
    return new ProblemError('DATABASE_AWAY', `The database does not answer. ${AGAIN}`);
  return undefined;
}

/** Codes of PostgreSQL (classes 08 and 57P) and of sockets for a database that went away. */
export function isDatabaseAway(error: Error): boolean {
  return (
    /^(08...|57P\d\d|25P03|ECONNRESET|ECONNREFUSED|EPIPE)$/.test(codeOf(error)) ||
    // Errors that come from another thread have kept their words, but not their codes.
    /^(connect|read|write) (ECONNRESET|ECONNREFUSED|EPIPE)\b/.test(error.message) ||
    /^(Connection terminated|Connection ended|Client was closed|Cannot use a pool after calling end|Client has encountered a connection error|Query runner has already been released)/i.test(
      error.message,
    )
  );
}

function codeOf(error: Error): string {
  if ('code' in error && typeof error.code === 'string') return error.code;
  // TypeORM puts what the driver said inside.
  return 'driverError' in error && error.driverError instanceof Error ? codeOf(error.driverError) : '';
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
