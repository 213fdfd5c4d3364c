import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type {
  BillRelease,
  BillSummary,
  CarryRequest,
  LensText,
  NewBillRequest,
  ReadinessSetting,
  SaveBillRequest,
  UsedBesidesAnswer,
  VersionMade,
} from '@stem-trace/contract';
import { FIRST_BUILD_COLUMNS } from '@stem-trace/core';
import { standardTemplate } from '@stem-trace/formats';
import type { Response } from 'express';
import type { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { sendFile } from '../serve/send-file.js';
import { Input, Serve } from '../serve/serve.js';
import { SettingsService } from '../settings/settings.service.js';
import { WorkHost } from '../work/work-host.js';
import { BillsService } from './bills.service.js';
import { ReleasesService } from './releases.service.js';
import { UsedBesidesService } from './used-besides.service.js';

interface OfBill {
  readonly bill: string;
}

@Controller()
export class BuildController {
  constructor(
    private readonly work: WorkHost,
    private readonly bills: BillsService,
    private readonly releases: ReleasesService,
    private readonly settings: SettingsService,
    private readonly besides: UsedBesidesService,
  ) {}

  @Serve('GET /api/bills')
  list(@Input() { item }: { item: string }, @Caller() person: Person): Promise<BillSummary[]> {
    return this.bills.list(item, person);
  }

  @Serve('GET /api/used/besides')
  used(
    @Input() request: { item: string; lens: LensText },
    @Caller() person: Person,
  ): Promise<UsedBesidesAnswer> {
    return this.besides.of(request, person);
  }

  @Serve('POST /api/bills')
  create(@Input() request: NewBillRequest, @Caller() person: Person): Promise<VersionMade> {
    return this.work.ask('build new', request, person);
  }

  @Serve('GET /api/build')
  open(@Input() request: OfBill, @Caller() person: Person, @Asker() asker: AbortSignal): Promise<JsonBytes> {
    return this.work.json('build', request, person, asker);
  }

  @Serve('PUT /api/build')
  save(@Input() request: SaveBillRequest, @Caller() person: Person): Promise<VersionMade> {
    return this.work.ask('build save', request, person);
  }

  @Serve('GET /api/build/carry')
  carry(@Input() request: OfBill, @Caller() person: Person, @Asker() asker: AbortSignal): Promise<JsonBytes> {
    return this.work.json('build carry', request, person, asker);
  }

  @Serve('POST /api/build/carry')
  carryOut(@Input() request: CarryRequest, @Caller() person: Person): Promise<VersionMade> {
    return this.work.ask('build carry out', request, person);
  }

  @Serve('GET /api/build/check')
  check(@Input() request: OfBill, @Caller() person: Person, @Asker() asker: AbortSignal): Promise<JsonBytes> {
    return this.work.json('build check', request, person, asker);
  }

  @Serve('GET /api/build/releases')
  listReleases(@Input() { bill }: OfBill, @Caller() person: Person): Promise<BillRelease[]> {
    return this.releases.list(bill, person);
  }

  @Serve('GET /api/build/template')
  async template(@Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    const bytes = await standardTemplate(FIRST_BUILD_COLUMNS.map(({ name }) => name));
    return sendFile(response, {
      name: 'bill template.xlsx',
      media: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
      base64: Buffer.from(bytes).toString('base64'),
    });
  }

  @Serve('GET /api/settings/readiness')
  async readiness(): Promise<ReadinessSetting> {
    return { rules: await this.settings.readiness() };
  }

  @Serve('PUT /api/settings/readiness')
  async setReadiness(
    @Input() { rules }: ReadinessSetting,
    @Caller() person: Person,
  ): Promise<ReadinessSetting> {
    return { rules: await this.settings.setReadiness(rules, person) };
  }
}
