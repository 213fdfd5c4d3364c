import { createParamDecorator, Injectable, type CanActivate, type ExecutionContext } from '@nestjs/common';
import type { RouteFacts } from '@stem-trace/contract';
import { INPUTS } from '@stem-trace/contract/schemas';
import { parse } from 'cookie';
import type { Request } from 'express';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { readBody, refuseLongUpload } from './read-body.js';
import { routeOf } from './serve.js';
import { AccessService, type Credential, type Entry } from '../access/access.service.js';

export const SESSION_COOKIE = 'stem_session';

/** The person who asks. */
export const Caller = createParamDecorator((_: unknown, context: ExecutionContext): Person => {
  const { person } = context.switchToHttp().getRequest<AuthenticatedRequest>();
  if (!person) throw new ProblemError('NOT_SIGNED_IN', 'Sign in first.');
  return person;
});

/** Whether the request comes from a browser session; otherwise from a program with a token. */
export const InBrowser = createParamDecorator(
  (_: unknown, context: ExecutionContext): boolean =>
    context.switchToHttp().getRequest<AuthenticatedRequest>().entryKind === 'session',
);

interface AuthenticatedRequest extends Request {
  person?: Person;
  /** Kind of the entry that let the person in, as the database has it. */
  entryKind?: Entry['kind'];
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

  private async personOf(request: AuthenticatedRequest, facts: RouteFacts): Promise<Person> {
    const credential = credentialOf(request);
    const entry = credential && (await this.access.entryOf(credential));
    if (!entry) throw new ProblemError('NOT_SIGNED_IN', 'Sign in first, or send a token.');
    const { person, scope } = entry;
    request.entryKind = entry.kind;
    if (entry.kind === 'session') refuseForeignOrigin(request);
    else if (facts.isInBrowserOnly)
      throw new ProblemError(
        'NOT_ALLOWED',
        'A token cannot create or change tokens, passwords or people. Sign in with your password and use Settings.',
      );
    const reads = request.method === 'GET' || request.method === 'HEAD' || facts.isQuestion === true;
    if (scope === 'read' && !reads)
      throw new ProblemError('NOT_ALLOWED', 'This token is for reading only. Make one for everything.');
    void this.access.noteUse(credential.token).catch(() => undefined);
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

/** The credential of a request: a program's token takes precedence over a browser's cookie. */
export function credentialOf(request: Request): Credential | undefined {
  const bearer = bearerOf(request);
  if (bearer !== undefined) return { token: bearer, kind: 'program' };
  const cookie = sessionCookie(request);
  return cookie === undefined ? undefined : { token: cookie, kind: 'session' };
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
