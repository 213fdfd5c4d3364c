import { Body, Controller, Get, Put } from '@nestjs/common';
import { titleBlockSchema } from '@stem-trace/contract/schemas';
import type { TitleBlockRule } from '@stem-trace/core';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { SettingsService } from './settings.service.js';

interface Rules {
  readonly rules: readonly TitleBlockRule[];
}

@Controller('api/settings')
export class SettingsController {
  constructor(private readonly settings: SettingsService) {}

  @Get('title-block')
  async titleBlock(): Promise<Rules> {
    return { rules: await this.settings.titleBlock() };
  }

  @Put('title-block')
  async setTitleBlock(
    @Body(new Validate(titleBlockSchema)) { rules }: Rules,
    @Caller() by: Person,
  ): Promise<Rules> {
    return { rules: await this.settings.setTitleBlock(rules, by) };
  }
}
