import type { NextFunction, Request, Response } from 'express';
import { pino } from 'pino';
import type { Person } from '../database/entities/person.js';

/**
 * A line of JSON on standard error for each request. What was asked is left out of the address, for searches and numbers
 * are nobody's business who reads logs; headers and bodies are never written.
 */
export function logRequests(): (request: Request, response: Response, next: NextFunction) => void {
  const logger = pino({ base: null, timestamp: pino.stdTimeFunctions.isoTime }, pino.destination(2));
  return (request: Request & { person?: Person }, response, next) => {
    const begun = performance.now();
    const path = request.path;
    response.once('close', () => {
      logger.info({
        method: request.method,
        path,
        status: response.statusCode,
        ms: Math.round(performance.now() - begun),
        isWhole: response.writableFinished,
        ...(request.person ? { login: request.person.login } : {}),
        ...(request.ip === undefined ? {} : { address: request.ip }),
      });
    });
    next();
  };
}
