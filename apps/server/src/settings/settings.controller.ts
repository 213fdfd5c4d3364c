import { Controller } from '@nestjs/common';
import type { ZoneSetting } from '@stem-trace/contract';
import type { RevisionScheme, TitleBlockRule } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { revisionScheme, SettingsService } from './settings.service.js';
import { Input, Serve } from '../serve/serve.js';

interface Rules {
  readonly rules: readonly TitleBlockRule[];
}

@Controller()
export class SettingsController {
  constructor(
    private readonly settings: SettingsService,
    private readonly database: DataSource,
  ) {}

  @Serve('GET /api/settings/title-block')
  async titleBlock(): Promise<Rules> {
    return { rules: await this.settings.titleBlock() };
  }

  @Serve('GET /api/settings/revisions')
  async revisions(): Promise<{ scheme: RevisionScheme }> {
    return { scheme: await revisionScheme(this.database.manager) };
  }

  @Serve('PUT /api/settings/revisions')
  async setRevisions(
    @Input() { scheme }: { scheme: RevisionScheme },
    @Caller() by: Person,
  ): Promise<{ scheme: RevisionScheme }> {
    return { scheme: await this.settings.setRevisionScheme(scheme, by) };
  }

  @Serve('GET /api/settings/zone')
  async zone(): Promise<ZoneSetting> {
    return { zone: await this.settings.zone() };
  }

  @Serve('PUT /api/settings/zone')
  async setZone(@Input() { zone }: ZoneSetting, @Caller() by: Person): Promise<ZoneSetting> {
    return { zone: await this.settings.setZone(zone, by) };
  }

  @Serve('PUT /api/settings/title-block')
  async setTitleBlock(@Input() { rules }: Rules, @Caller() by: Person): Promise<Rules> {
    return { rules: await this.settings.setTitleBlock(rules, by) };
  }
}
