import { Body, Controller, Get, Put } from '@nestjs/common';
import { revisionSchemeSchema, titleBlockSchema } from '@stem-trace/contract/schemas';
import type { RevisionScheme, TitleBlockRule } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { revisionScheme, SettingsService } from './settings.service.js';

interface Rules {
  readonly rules: readonly TitleBlockRule[];
}

@Controller('api/settings')
export class SettingsController {
  constructor(
    private readonly settings: SettingsService,
    private readonly database: DataSource,
  ) {}

  @Get('title-block')
  async titleBlock(): Promise<Rules> {
    return { rules: await this.settings.titleBlock() };
  }

  @Get('revisions')
  async revisions(): Promise<{ scheme: RevisionScheme }> {
    return { scheme: await revisionScheme(this.database.manager) };
  }

  @Put('revisions')
  async setRevisions(
    @Body(new Validate(revisionSchemeSchema)) { scheme }: { scheme: RevisionScheme },
    @Caller() by: Person,
  ): Promise<{ scheme: RevisionScheme }> {
    return { scheme: await this.settings.setRevisionScheme(scheme, by) };
  }

  @Put('title-block')
  async setTitleBlock(
    @Body(new Validate(titleBlockSchema)) { rules }: Rules,
    @Caller() by: Person,
  ): Promise<Rules> {
    return { rules: await this.settings.setTitleBlock(rules, by) };
  }
}
