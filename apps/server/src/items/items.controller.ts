import { Controller } from '@nestjs/common';
import type { CustodyAnswer, HistoryAnswer, HistoryRequest, ItemView } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { BelongingService } from './belonging.service.js';
import { HistoryService } from './history.service.js';
import { ItemViewService } from './item-view.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class ItemsController {
  constructor(
    private readonly views: ItemViewService,
    private readonly belonging: BelongingService,
    private readonly histories: HistoryService,
  ) {}

  @Serve('POST /api/items/belong')
  belong(
    @Input() { item, model }: { item: string; model: string },
    @Caller() person: Person,
  ): Promise<CustodyAnswer> {
    return this.belonging.set(item, model, person);
  }

  @Serve('GET /api/history')
  history(@Input() request: HistoryRequest, @Caller() person: Person): Promise<HistoryAnswer> {
    return this.histories.history(request, person);
  }

  @Serve('GET /api/item')
  view(@Input() { item }: { item: string }, @Caller() person: Person): Promise<ItemView> {
    return this.views.view(item, person);
  }
}
