import {
  createParamDecorator,
  Injectable,
  SetMetadata,
  type CanActivate,
  type ExecutionContext,
} from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import { parse } from 'cookie';
import type { Request } from 'express';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { AccessService } from './access.service.js';

export const SESSION_COOKIE = 'stem_session';

const OPEN = 'open to everybody';

/** Marks a route that needs no sign-in. */
export const OpenToAll = (): MethodDecorator & ClassDecorator => SetMetadata(OPEN, true);

/** The person who asks. */
export const Caller = createParamDecorator((_: unknown, context: ExecutionContext): Person => {
  const { person } = context.switchToHttp().getRequest<AuthenticatedRequest>();
  if (!person) throw new ProblemError('NOT_SIGNED_IN', 'Sign in first.');
  return person;
});

interface AuthenticatedRequest extends Request {
  person?: Person;
}

/** Lets nobody in without a session or a token, and viewers only look. */
@Injectable()
export class AccessGuard implements CanActivate {
  constructor(
    private readonly access: AccessService,
    private readonly reflector: Reflector,
  ) {}

  async canActivate(context: ExecutionContext): Promise<boolean> {
    if (this.reflector.getAllAndOverride<boolean>(OPEN, [context.getHandler(), context.getClass()]))
      return true;
    const request = context.switchToHttp().getRequest<AuthenticatedRequest>();
    const token = tokenOf(request);
    const entry = token === undefined ? undefined : await this.access.entryOf(token);
    if (token === undefined || !entry)
      throw new ProblemError('NOT_SIGNED_IN', 'Sign in first, or send a token.');
    const { person, scope } = entry;
    if (bearerOf(request) === undefined) refuseForeignOrigin(request);
    if (scope === 'read' && !isReading(request))
      throw new ProblemError('NOT_ALLOWED', 'This token is for reading only. Make one for everything.');
    void this.access.noteUse(token).catch(() => undefined);
    if (person.role === 'viewer' && !isReading(request)) {
      throw new ProblemError(
        'NOT_ALLOWED',
        `${person.name} may look but not change. Ask an administrator for another role.`,
      );
    }
    request.person = person;
    return true;
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
  return parse(request.headers.cookie ?? '')[SESSION_COOKIE];
}

/** Questions that are too long for an address, and signing out. */
const READING_POSTS: ReadonlySet<string> = new Set([
  '/api/session',
  '/api/effect',
  '/api/common',
  '/api/like',
]);

function isReading(request: Request): boolean {
  return request.method === 'GET' || request.method === 'HEAD' || READING_POSTS.has(request.path);
}

/** A cookie comes along with requests that other sites make; those are refused where they change something. */
export function refuseForeignOrigin(request: Request): void {
  const { origin, host } = request.headers;
  if (request.method === 'GET' || request.method === 'HEAD' || origin === undefined) return;
  if (URL.canParse(origin) && new URL(origin).host === host) return;
  throw new ProblemError('NOT_ALLOWED', 'The request came from another site and was not carried out.');
}
