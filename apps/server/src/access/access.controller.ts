import { Body, Controller, Delete, Get, HttpCode, Post, Req, Res } from '@nestjs/common';
import type { PersonView } from '@stem-trace/contract';
import { signInSchema, tokenSchema } from '@stem-trace/contract/schemas';
import type { Request, Response } from 'express';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { Caller, OpenToAll, refuseForeignOrigin, SESSION_COOKIE, sessionCookie } from './access.guard.js';
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
    @Body(new Validate(tokenSchema)) { name }: { name: string },
    @Caller() person: Person,
  ): Promise<{ token: string }> {
    return {
      token: await this.access.issue({ personId: person.id, kind: 'program', name, expiresAt: null }),
    };
  }
}
