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
    const bearer = /^Bearer (\S+)$/.exec(request.headers.authorization ?? '')?.[1];
    const cookie = sessionCookie(request);
    const token = bearer ?? cookie;
    const person = token === undefined ? undefined : await this.access.personOf(token);
    if (!person) throw new ProblemError('NOT_SIGNED_IN', 'Sign in first, or send a token.');
    if (bearer === undefined) refuseForeignOrigin(request);
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

export function sessionCookie(request: Request): string | undefined {
  return parse(request.headers.cookie ?? '')[SESSION_COOKIE];
}

function isReading(request: Request): boolean {
  return request.method === 'GET' || request.method === 'HEAD' || request.path === '/api/session';
}

/** A cookie comes along with requests that other sites make; those are refused where they change something. */
export function refuseForeignOrigin(request: Request): void {
  const { origin, host } = request.headers;
  if (request.method === 'GET' || request.method === 'HEAD' || origin === undefined) return;
  if (URL.canParse(origin) && new URL(origin).host === host) return;
  throw new ProblemError('NOT_ALLOWED', 'The request came from another site and was not carried out.');
}
