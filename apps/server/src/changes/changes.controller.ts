import { Controller, Header, Res, type StreamableFile } from '@nestjs/common';
import type {
  ChangeMade,
  ChangeMakesRequest,
  ChangeMapAnswer,
  ChangeReference,
  ChangeRow,
  ChangesQuery,
  ChangeView,
  CustodyAnswer,
  JoinRequestsRequest,
  MyTaskRow,
  NewChangeRequest,
  RedlineFileRequest,
  SaveChangeRequest,
  TickTaskRequest,
} from '@stem-trace/contract';
import { CHANGE_XSD } from '@stem-trace/formats';
import type { Response } from 'express';
import type { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { sendFile } from '../serve/send-file.js';
import { Input, Serve } from '../serve/serve.js';
import { WorkHost } from '../work/work-host.js';
import { BoardService } from './board.service.js';
import { ChangeMapService } from './change-map.service.js';
import { ChangeViewService } from './change-view.service.js';
import { ChangesService } from './changes.service.js';
import { MakesService } from './makes.service.js';
import { TasksService } from './tasks.service.js';

@Controller()
export class ChangesController {
  constructor(
    private readonly work: WorkHost,
    private readonly changes: ChangesService,
    private readonly views: ChangeViewService,
    private readonly board: BoardService,
    private readonly making: MakesService,
    private readonly maps: ChangeMapService,
    private readonly tasks: TasksService,
  ) {}

  @Serve('GET /api/changes')
  list(@Input() { item }: ChangesQuery, @Caller() person: Person): Promise<ChangeRow[]> {
    return this.board.list(item, person);
  }

  @Serve('POST /api/changes')
  create(@Input() request: NewChangeRequest, @Caller() person: Person): Promise<ChangeMade> {
    return this.changes.create(request, person);
  }

  @Serve('GET /api/change')
  view(@Input() { change }: ChangeReference, @Caller() person: Person): Promise<ChangeView> {
    return this.views.view(change, person);
  }

  @Serve('PUT /api/change')
  save(@Input() request: SaveChangeRequest, @Caller() person: Person): Promise<ChangeMade> {
    return this.changes.save(request, person);
  }

  @Serve('POST /api/change/tick')
  tick(@Input() request: TickTaskRequest, @Caller() person: Person): Promise<void> {
    return this.tasks.tick(request, person);
  }

  @Serve('POST /api/change/makes')
  makes(@Input() request: ChangeMakesRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.making.add(request, person);
  }

  @Serve('POST /api/change/leaves')
  leaves(@Input() request: ChangeMakesRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.making.leave(request, person);
  }

  @Serve('POST /api/change/join')
  join(@Input() request: JoinRequestsRequest, @Caller() person: Person): Promise<void> {
    return this.changes.join(request, person);
  }

  @Serve('GET /api/change/redline')
  redline(
    @Input() request: ChangeReference,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('redline', request, person, asker);
  }

  @Serve('GET /api/change/redline/file')
  async redlineFile(
    @Input() request: RedlineFileRequest,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('redline file', request, person));
  }

  @Serve('GET /api/change.xsd')
  @Header('Content-Type', 'application/xml')
  schema(): string {
    return CHANGE_XSD;
  }

  @Serve('GET /api/change/map')
  map(@Input() { change }: ChangeReference, @Caller() person: Person): Promise<ChangeMapAnswer> {
    return this.maps.of(change, person);
  }

  @Serve('GET /api/tasks')
  myTasks(@Caller() person: Person): Promise<MyTaskRow[]> {
    return this.tasks.of(person);
  }
}
