import { Controller, Res, type StreamableFile } from '@nestjs/common';
import type {
  AlignAnswer,
  AlignRequest,
  AnswerPointRequest,
  CheckRow,
  ClosePointRequest,
  LifecycleChecked,
  LifecycleDraft,
  LifecycleRow,
  LifecyclesAnswer,
  LifecycleVersionRow,
  MoveOnAnswer,
  MoveOnRequest,
  LifecycleReference,
  OfferedRequest,
  OfferedStep,
  PassOnRequest,
  RaisePointRequest,
  SeenRequest,
  SheetReference,
  SheetRow,
  SheetView,
  StepAnswer,
  StepPreview,
  StepRequest,
  Substitution,
} from '@stem-trace/contract';
import type { Response } from 'express';
import { sendFile } from '../serve/send-file.js';
import { WorkHost } from '../work/work-host.js';
import { Caller, InBrowser } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { AskedService } from './asked.service.js';
import { AlignService } from './align.service.js';
import { LifecycleService } from './lifecycle.service.js';
import { LifecyclesService } from './lifecycles.service.js';
import { MoveOnService } from './move-on.service.js';
import { SheetsService } from './sheets.service.js';
import { StepQuestionsService } from './step-questions.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class LifecycleController {
  constructor(
    private readonly lifecycle: LifecycleService,
    private readonly questions: StepQuestionsService,
    private readonly aligning: AlignService,
    private readonly lifecycles: LifecyclesService,
    private readonly moving: MoveOnService,
    private readonly sheets: SheetsService,
    private readonly asked: AskedService,
    private readonly work: WorkHost,
  ) {}

  @Serve('POST /api/steps')
  take(
    @Input() request: StepRequest,
    @Caller() person: Person,
    @InBrowser() isInBrowser: boolean,
  ): Promise<StepAnswer> {
    return this.lifecycle.take(request, person, isInBrowser);
  }

  @Serve('POST /api/steps/offered')
  offered(@Input() { items }: OfferedRequest, @Caller() person: Person): Promise<OfferedStep[]> {
    return this.questions.offered(items, person);
  }

  @Serve('GET /api/sheets')
  sheetList(@Caller() person: Person): Promise<SheetRow[]> {
    return this.sheets.list(person);
  }

  @Serve('GET /api/sheets/:id')
  sheet(@Input() { id }: SheetReference, @Caller() person: Person): Promise<SheetView> {
    return this.sheets.view(id, person);
  }

  @Serve('GET /api/record/sheet')
  async sheetRecord(
    @Input() request: SheetReference,
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('record of sheet', request, person));
  }

  @Serve('GET /api/record')
  async record(
    @Input() request: { item: string },
    @Caller() person: Person,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return sendFile(response, await this.work.ask('record of item', request, person));
  }

  @Serve('POST /api/sheets/seen')
  seen(@Input() request: SeenRequest, @Caller() person: Person): Promise<void> {
    return this.sheets.noteSeen(request, person);
  }

  @Serve('POST /api/sheets/pass')
  passOn(@Input() request: PassOnRequest, @Caller() person: Person): Promise<void> {
    return this.asked.passOn(request, person);
  }

  @Serve('GET /api/substitute')
  substitute(@Caller() person: Person): Promise<Substitution> {
    return this.asked.substituteOf(person);
  }

  @Serve('PUT /api/substitute')
  setSubstitute(@Input() request: Substitution, @Caller() person: Person): Promise<Substitution> {
    return this.asked.setSubstitute(request, person);
  }

  @Serve('POST /api/sheets/points')
  raise(@Input() request: RaisePointRequest, @Caller() person: Person): Promise<void> {
    return this.sheets.raise(request, person);
  }

  @Serve('POST /api/sheets/points/answer')
  answer(@Input() request: AnswerPointRequest, @Caller() person: Person): Promise<void> {
    return this.sheets.answer(request, person);
  }

  @Serve('POST /api/sheets/points/close')
  close(@Input() { point }: ClosePointRequest, @Caller() person: Person): Promise<void> {
    return this.sheets.close(point, person);
  }

  @Serve('GET /api/lifecycles')
  all(@Caller() person: Person): Promise<LifecyclesAnswer> {
    return this.lifecycles.listFor(person);
  }

  @Serve('GET /api/lifecycles/:id/versions')
  versions(@Input() { id }: LifecycleReference): Promise<LifecycleVersionRow[]> {
    return this.lifecycles.versions(id);
  }

  @Serve('POST /api/lifecycles/check')
  check(@Input() draft: LifecycleDraft): Promise<LifecycleChecked> {
    return this.lifecycles.check(draft);
  }

  @Serve('POST /api/lifecycles')
  save(@Input() draft: LifecycleDraft, @Caller() person: Person): Promise<LifecycleRow> {
    return this.lifecycles.save(draft, person);
  }

  @Serve('POST /api/lifecycles/move-on/preview')
  previewMoveOn(@Input() request: MoveOnRequest): Promise<MoveOnAnswer> {
    return this.moving.preview(request);
  }

  @Serve('POST /api/lifecycles/move-on')
  moveOn(@Input() request: MoveOnRequest, @Caller() person: Person): Promise<MoveOnAnswer> {
    return this.moving.carryOut(request, person);
  }

  @Serve('POST /api/steps/preview')
  preview(@Input() request: StepRequest, @Caller() person: Person): Promise<StepPreview> {
    return this.questions.preview(request, person);
  }

  @Serve('GET /api/checks')
  waiting(@Caller() person: Person): Promise<CheckRow[]> {
    return this.questions.waitingFor(person);
  }

  @Serve('POST /api/align/preview')
  previewAlign(@Input() request: AlignRequest, @Caller() person: Person): Promise<AlignAnswer> {
    return this.aligning.preview(request, person);
  }

  @Serve('POST /api/align')
  align(@Input() request: AlignRequest, @Caller() person: Person): Promise<AlignAnswer> {
    return this.aligning.carryOut(request, person);
  }
}
