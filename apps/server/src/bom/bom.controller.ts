import { Controller, Header, Req, Res, type StreamableFile } from '@nestjs/common';
import type {
  AlternateRequest,
  BillEditRequest,
  ColumnSet,
  CustodyAnswer,
  EffectivityRequest,
  FindProposal,
  ListView,
  MapListRequest,
} from '@stem-trace/contract';
import { BOM_XSD } from '@stem-trace/formats';
import type { Request, Response } from 'express';
import type { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { readUpload } from '../serve/read-body.js';
import { sendFile } from '../serve/send-file.js';
import { Input, Serve } from '../serve/serve.js';
import { WorkHost } from '../work/work-host.js';
import { AlternatesService } from './alternates.service.js';
import { BillEditService } from './bill-edit.service.js';
import type { BillFileRequest } from './bill-file.service.js';
import type { BillRequest } from './bill.service.js';
import { EffectivityService } from './effectivity.service.js';
import { ColumnSetsService } from './column-sets.service.js';
import { ListsService, MOST_LIST_BYTES } from './lists.service.js';

@Controller()
export class BomController {
  constructor(
    private readonly work: WorkHost,
    private readonly edits: BillEditService,
    private readonly alternates: AlternatesService,
    private readonly effectivity: EffectivityService,
    private readonly sets: ColumnSetsService,
    private readonly lists: ListsService,
  ) {}

  @Serve('GET /api/bill')
  bill(
    @Input() request: BillRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('bill', request, person, asker);
  }

  @Serve('GET /api/bill/file')
  async file(
    @Input() request: BillFileRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('bill file', request, person));
  }

  @Serve('GET /api/bill.xsd')
  @Header('Content-Type', 'application/xml')
  schema(): string {
    return BOM_XSD;
  }

  @Serve('POST /api/bill/rows')
  edit(@Input() request: BillEditRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.edits.edit(request, person);
  }

  @Serve('GET /api/bill/finds')
  finds(@Input() request: { item: string }, @Caller() person: Person): Promise<FindProposal> {
    return this.work.ask('bill finds', request, person);
  }

  @Serve('PUT /api/effectivity')
  async say(@Input() request: EffectivityRequest, @Caller() person: Person): Promise<void> {
    await this.effectivity.put(request, person);
  }

  @Serve('PUT /api/alternates')
  async put(@Input() request: AlternateRequest, @Caller() person: Person): Promise<void> {
    await this.alternates.put(request, person);
  }

  @Serve('POST /api/alternates/approve')
  async approve(@Input() request: AlternateRequest, @Caller() person: Person): Promise<void> {
    await this.alternates.approve(request, person);
  }

  @Serve('POST /api/alternates/remove')
  async remove(@Input() request: AlternateRequest, @Caller() person: Person): Promise<void> {
    await this.alternates.remove(request, person);
  }

  @Serve('GET /api/column-sets')
  listSets(@Caller() person: Person): Promise<ColumnSet[]> {
    return this.sets.list(person);
  }

  @Serve('PUT /api/column-sets')
  putSet(@Input() set: Omit<ColumnSet, 'by'>, @Caller() person: Person): Promise<ColumnSet[]> {
    return this.sets.put(set, person);
  }

  @Serve('DELETE /api/column-sets')
  removeSet(@Input() { name }: { name: string }, @Caller() person: Person): Promise<ColumnSet[]> {
    return this.sets.remove(name, person);
  }

  /** The list is the body. */
  @Serve('POST /api/lists')
  async bring(
    @Input() { name }: { name: string },
    @Req() request: Request,
    @Caller() person: Person,
  ): Promise<ListView> {
    return this.lists.bring(name, await readUpload(request, MOST_LIST_BYTES), person);
  }

  @Serve('POST /api/lists/of')
  take(@Input() { item }: { item: string }, @Caller() person: Person): Promise<ListView> {
    return this.lists.take(item, person);
  }

  @Serve('GET /api/lists/:id')
  list(@Input() { id }: { id: string }, @Caller() person: Person): Promise<ListView> {
    return this.lists.view(id, person);
  }

  @Serve('PUT /api/lists/:id')
  map(
    @Input() { id, ...request }: MapListRequest & { id: string },
    @Caller() person: Person,
  ): Promise<ListView> {
    return this.lists.map(id, request, person);
  }
}
