import { Controller, Req, Res } from '@nestjs/common';
import type { EntryRow, PersonView, TokenRequest } from '@stem-trace/contract';
import type { Request, Response } from 'express';
import { Person } from '../database/entities/person.js';
import { ServerSettings } from '../server-settings.js';
import { ProblemError } from '../problems/problem.js';
import {
  Caller,
  cookieOf,
  refuseForeignOrigin,
  SESSION_COOKIE,
  sessionCookie,
  credentialOf,
} from '../serve/access.guard.js';
import { AccessService, viewOf } from '../access/access.service.js';
import type { SignInOrigin } from '../access/sign-in-limits.js';
import { Input, Serve } from '../serve/serve.js';

const DEVICE_COOKIE = 'stem_device';
const DEVICE_MS = 180 * 24 * 60 * 60 * 1000;

@Controller()
export class AccessController {
  constructor(
    private readonly access: AccessService,
    private readonly settings: ServerSettings,
  ) {}

  @Serve('GET /api/session')
  who(@Caller() person: Person): PersonView {
    return viewOf(person);
  }

  @Serve('POST /api/session')
  async signIn(
    @Input() { login, password }: { login: string; password: string },
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<PersonView> {
    refuseForeignOrigin(request);
    const { token, expiresAt, device, person } = await this.access.signIn(login, password, originOf(request));
    // Behind a proxy that ends TLS, a cookie goes over TLS alone.
    const common = { httpOnly: true, secure: this.settings.secureCookies || request.secure };
    response.cookie(SESSION_COOKIE, token, { ...common, sameSite: 'lax', path: '/', expires: expiresAt });
    response.cookie(DEVICE_COOKIE, device, {
      ...common,
      sameSite: 'strict',
      path: '/api/session',
      maxAge: DEVICE_MS,
    });
    return person;
  }

  @Serve('DELETE /api/session')
  async signOut(@Req() request: Request, @Res({ passthrough: true }) response: Response): Promise<void> {
    const token = sessionCookie(request);
    if (token !== undefined) await this.access.end(token);
    response.clearCookie(SESSION_COOKIE, { path: '/' });
  }

  /**
   * A token for a program acts for the person who asked for it; it is shown this once. Only a browser session may create one:
   * a stolen token must not outlive its expiry by creating others.
   */
  @Serve('POST /api/tokens')
  async createToken(@Input() request: TokenRequest, @Caller() person: Person): Promise<{ token: string }> {
    return { token: await this.access.issueFor(person, request) };
  }

  /** Sessions and tokens: one's own, or for an administrator everybody's. */
  @Serve('GET /api/entries')
  entries(
    @Input() { all }: { all: boolean },
    @Req() request: Request,
    @Caller() person: Person,
  ): Promise<EntryRow[]> {
    if (all && person.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may see the sessions of others.');
    return this.access.entries(all ? undefined : person, credentialOf(request)?.token);
  }

  @Serve('DELETE /api/entries/:id')
  endEntry(@Input() { id }: { id: string }, @Caller() person: Person): Promise<void> {
    return this.access.endEntry(id, person);
  }
}

/** The address is the caller's own, or what a trusted proxy says of it. */
function originOf(request: Request): SignInOrigin {
  const device = cookieOf(request, DEVICE_COOKIE);
  return { address: request.ip ?? 'unknown', ...(device === undefined ? {} : { device }) };
}
