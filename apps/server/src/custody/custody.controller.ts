import { Controller } from '@nestjs/common';
import type {
  CheckOutRequest,
  CustodyAnswer,
  HoldAnswerRequest,
  HoldAskRequest,
  HoldRow,
} from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { CustodyService } from './custody.service.js';
import { HoldRequestsService } from './hold-requests.service.js';
import { Input, Serve } from '../serve/serve.js';

interface Items {
  readonly items: readonly string[];
}

@Controller()
export class CustodyController {
  constructor(
    private readonly custody: CustodyService,
    private readonly requests: HoldRequestsService,
  ) {}

  @Serve('GET /api/holds')
  mine(@Caller() person: Person): Promise<HoldRow[]> {
    return this.custody.mine(person);
  }

  @Serve('POST /api/holds')
  checkOut(@Input() request: CheckOutRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.custody.checkOut(request, person);
  }

  @Serve('POST /api/holds/let-go')
  letGo(@Input() { items }: Items, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.custody.letGo(items, person);
  }

  @Serve('POST /api/holds/reason')
  setReason(
    @Input() { items, reason }: Items & { readonly reason: string },
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.requests.setReason(items, reason, person);
  }

  @Serve('POST /api/holds/ask')
  ask(@Input() request: HoldAskRequest, @Caller() person: Person): Promise<void> {
    return this.requests.ask(request, person);
  }

  @Serve('POST /api/holds/answer')
  answer(@Input() request: HoldAnswerRequest, @Caller() person: Person): Promise<void> {
    return this.requests.answer(request, person);
  }

  @Serve('POST /api/holds/break')
  breakHold(
    @Input() { item, reason }: { item: string; reason: string },
    @Caller() person: Person,
  ): Promise<void> {
    return this.custody.breakHold(item, reason, person);
  }

  @Serve('POST /api/revise')
  revise(@Input() request: CheckOutRequest, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.custody.revise(request, person);
  }

  @Serve('POST /api/catch-up')
  catchUp(@Input() { items }: Items, @Caller() person: Person): Promise<CustodyAnswer> {
    return this.custody.catchUp(items, person);
  }

  @Serve('POST /api/bring-back')
  bringBack(
    @Input() { item, comment }: { item: string; comment: string },
    @Caller() person: Person,
  ): Promise<{ number: string; version: string }> {
    return this.custody.bringBack(item, comment, person);
  }
}
