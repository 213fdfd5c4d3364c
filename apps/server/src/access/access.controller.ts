import { Body, Controller, Delete, Get, HttpCode, Param, Post, Query, Req, Res } from '@nestjs/common';
import type { EntryRow, PersonView, TokenRequest } from '@stem-trace/contract';
import { entriesSchema, entryParameters, signInSchema, tokenSchema } from '@stem-trace/contract/schemas';
import type { Request, Response } from 'express';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { Validate } from '../problems/validate.js';
import {
  Caller,
  OpenToAll,
  refuseForeignOrigin,
  SESSION_COOKIE,
  sessionCookie,
  tokenOf,
} from './access.guard.js';
import { AccessService, viewOf } from './access.service.js';

@Controller('api')
export class AccessController {
  constructor(private readonly access: AccessService) {}

  @Get('session')
  who(@Caller() person: Person): PersonView {
    return viewOf(person);
  }

  @OpenToAll()
  @Post('session')
  @HttpCode(200)
  async signIn(
    @Body(new Validate(signInSchema)) { login, password }: { login: string; password: string },
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<PersonView> {
    refuseForeignOrigin(request);
    const { token, expiresAt, person } = await this.access.signIn(login, password);
    response.cookie(SESSION_COOKIE, token, {
      httpOnly: true,
      sameSite: 'lax',
      path: '/',
      expires: expiresAt,
    });
    return person;
  }

  @Delete('session')
  @HttpCode(204)
  async signOut(@Req() request: Request, @Res({ passthrough: true }) response: Response): Promise<void> {
    const token = sessionCookie(request);
    if (token !== undefined) await this.access.end(token);
    response.clearCookie(SESSION_COOKIE, { path: '/' });
  }

  /** A token for a program acts for the person who asked for it; it is shown this once. */
  @Post('tokens')
  async createToken(
    @Body(new Validate(tokenSchema)) request: TokenRequest,
    @Caller() person: Person,
  ): Promise<{ token: string }> {
    return { token: await this.access.issueFor(person, request) };
  }

  /** Sessions and tokens: one's own, or for an administrator everybody's. */
  @Get('entries')
  entries(
    @Query(new Validate(entriesSchema)) { all }: { all: boolean },
    @Req() request: Request,
    @Caller() person: Person,
  ): Promise<EntryRow[]> {
    if (all && person.role !== 'administrator')
      throw new ProblemError('NOT_ALLOWED', 'Only an administrator may see the sessions of others.');
    return this.access.entries(all ? undefined : person, tokenOf(request));
  }

  @Delete('entries/:id')
  @HttpCode(204)
  endEntry(
    @Param(new Validate(entryParameters)) { id }: { id: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.access.endEntry(id, person);
  }
}
