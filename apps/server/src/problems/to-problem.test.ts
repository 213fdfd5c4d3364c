import { describe, expect, it } from 'vitest';
import { problemOf } from './to-problem.js';

const failure = (code: string): Error => Object.assign(new Error('something'), { code });

describe('what a failure of the system means to whoever asked', () => {
  it.each([
    ['ENOSPC', 'STORAGE_FULL', 507],
    ['53100', 'STORAGE_FULL', 507],
    ['55P03', 'BUSY', 503],
    ['40P01', 'BUSY', 503],
    ['53300', 'BUSY', 503],
    ['57014', 'TOO_COSTLY', 422],
    ['57P01', 'DATABASE_AWAY', 503],
    ['ECONNREFUSED', 'DATABASE_AWAY', 503],
    ['22021', 'INPUT_INVALID', 400],
    ['22003', 'INPUT_INVALID', 400],
  ])('%s is told as %s', (code, told, status) => {
    const problem = problemOf(failure(code));
    expect([problem?.code, problem?.status]).toEqual([told, status]);
    // What the driver or the system said stays with the server.
    expect(problem?.message).not.toContain('something');
  });

  it.each(['connect ECONNREFUSED 127.0.0.1:5432', 'read ECONNRESET', 'write EPIPE'])(
    "is known by '%s' alone, which is all that comes from another thread",
    (message) => expect(problemOf(new Error(message))?.code).toBe('DATABASE_AWAY'),
  );

  it('is found inside of what a library makes of it', () => {
    const wrapped = Object.assign(new Error('query failed'), { driverError: failure('55P03') });
    expect(problemOf(wrapped)?.code).toBe('BUSY');
  });

  it('is ours where nobody foresaw it', () => {
    expect(problemOf(failure('ENOENT'))).toBeUndefined();
    expect(problemOf(new Error('x'))).toBeUndefined();
  });
});
