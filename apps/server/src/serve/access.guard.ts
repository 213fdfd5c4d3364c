import { createParamDecorator, Injectable, type CanActivate, type ExecutionContext } from '@nestjs/common';
import type { RouteFacts } from '@stem-trace/contract';
import { INPUTS } from '@stem-trace/contract/schemas';
import { parse } from 'cookie';
import type { Request } from 'express';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { readBody, refuseLongUpload } from './read-body.js';
import { routeOf } from './serve.js';
import { AccessService } from '../access/access.service.js';

export const SESSION_COOKIE = 'stem_session';

/** The person who asks. */
export const Caller = createParamDecorator((_: unknown, context: ExecutionContext): Person => {
  const { person } = context.switchToHttp().getRequest<AuthenticatedRequest>();
  if (!person) throw new ProblemError('NOT_SIGNED_IN', 'Sign in first.');
  return person;
});

/** Whether a browser asks, in which somebody signed in; else a program asks, with a token. */
export const InBrowser = createParamDecorator(
  (_: unknown, context: ExecutionContext): boolean =>
    bearerOf(context.switchToHttp().getRequest<Request>()) === undefined,
);

interface AuthenticatedRequest extends Request {
  person?: Person;
}

/**
 * Lets nobody in without a session or a token, and viewers only look. What is sent is read after that, and no more of it
 * than the route takes.
 */
@Injectable()
export class AccessGuard implements CanActivate {
  constructor(private readonly access: AccessService) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    const { route, facts } = routeOf(context);
    const request = context.switchToHttp().getRequest<AuthenticatedRequest>();
    if (facts.wants !== 'nobody') request.person = await this.personOf(request, facts);
    refuseLongUpload(request, facts);
    await readBody(request, facts, INPUTS[route] ?? {});
    return true;
  }

  private async personOf(request: Request, facts: RouteFacts): Promise<Person> {
    const token = tokenOf(request);
    const entry = token === undefined ? undefined : await this.access.entryOf(token);
    if (token === undefined || !entry)
      throw new ProblemError('NOT_SIGNED_IN', 'Sign in first, or send a token.');
    const { person, scope } = entry;
    if (bearerOf(request) === undefined) refuseForeignOrigin(request);
    const reads = request.method === 'GET' || request.method === 'HEAD' || facts.isQuestion === true;
    if (scope === 'read' && !reads)
      throw new ProblemError('NOT_ALLOWED', 'This token is for reading only. Make one for everything.');
    void this.access.noteUse(token).catch(() => undefined);
    if (person.role === 'viewer' && !reads)
      throw new ProblemError(
        'NOT_ALLOWED',
        `${person.name} may look but not change. Ask an administrator for another role.`,
      );
    if (facts.wants === 'administrator' && person.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may do this. Nothing was changed.');
    return person;
  }
}

/** What somebody comes in with: a program's token before a browser's cookie. */
export function tokenOf(request: Request): string | undefined {
  return bearerOf(request) ?? sessionCookie(request);
}

function bearerOf(request: Request): string | undefined {
  return /^Bearer (\S+)$/.exec(request.headers.authorization ?? '')?.[1];
}

export function sessionCookie(request: Request): string | undefined {
  return cookieOf(request, SESSION_COOKIE);
}

export function cookieOf(request: Request, name: string): string | undefined {
  return parse(request.headers.cookie ?? '')[name];
}

/** A cookie comes along with requests that other sites make; those are refused where they change something. */
export function refuseForeignOrigin(request: Request): void {
  const { origin, host } = request.headers;
  if (request.method === 'GET' || request.method === 'HEAD' || origin === undefined) return;
  if (URL.canParse(origin) && new URL(origin).host === host) return;
  throw new ProblemError('NOT_ALLOWED', 'The request came from another site and was not carried out.');
}
