import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type {
  IssuedFileRequest,
  IssuedFileRow,
  IssuedFilesSetting,
  IssuedFromRow,
} from '@stem-trace/contract';
import type { Response } from 'express';
import type { Person } from '../database/entities/person.js';
import { showFile } from '../files/shown-file.js';
import { Caller } from '../serve/access.guard.js';
import { Input, Serve } from '../serve/serve.js';
import { SettingsService } from '../settings/settings.service.js';
import { IssuedService } from './issued.service.js';

@Controller()
export class IssuedController {
  constructor(
    private readonly issued: IssuedService,
    private readonly settings: SettingsService,
  ) {}

  @Serve('GET /api/issued')
  list(@Input() { item }: { readonly item: string }, @Caller() person: Person): Promise<IssuedFileRow[]> {
    return this.issued.of(item, person);
  }

  @Serve('GET /api/issued/from')
  from(@Input() { sha256 }: { readonly sha256: string }, @Caller() person: Person): Promise<IssuedFromRow[]> {
    return this.issued.from(sha256, person);
  }

  @Serve('GET /api/issued/file')
  async file(
    @Input() { item, file }: IssuedFileRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return showFile(response, await this.issued.open(item, file, person));
  }

  @Serve('POST /api/issued/again')
  again(@Input() { item, file }: IssuedFileRequest, @Caller() person: Person): Promise<void> {
    return this.issued.again(item, file, person);
  }

  @Serve('GET /api/settings/issued')
  async setting(): Promise<IssuedFilesSetting> {
    return { issued: await this.settings.issued() };
  }

  @Serve('PUT /api/settings/issued')
  async set(@Input() { issued }: IssuedFilesSetting, @Caller() person: Person): Promise<IssuedFilesSetting> {
    return { issued: await this.settings.setIssued(issued, person) };
  }
}
