import { Controller } from '@nestjs/common';
import type { RevisionSetting, ZoneSetting } from '@stem-trace/contract';
import type { RevisionScheme, TitleBlockRule } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { revisionProperty, revisionScheme, SettingsService } from './settings.service.js';
import { Input, Serve } from '../serve/serve.js';

/** The property stays what it is where none is given. */
interface RevisionRequest {
  readonly scheme: RevisionScheme;
  readonly property?: string;
}

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
  async revisions(): Promise<RevisionSetting> {
    const { manager } = this.database;
    return { scheme: await revisionScheme(manager), property: await revisionProperty(manager) };
  }

  @Serve('PUT /api/settings/revisions')
  async setRevisions(
    @Input() { scheme, property }: RevisionRequest,
    @Caller() by: Person,
  ): Promise<RevisionSetting> {
    await this.settings.setRevisionScheme(scheme, by);
    if (property !== undefined) await this.settings.setRevisionProperty(property, by);
    return this.revisions();
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
