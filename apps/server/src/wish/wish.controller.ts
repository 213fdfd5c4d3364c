import { Controller } from '@nestjs/common';
import type {
  NewRecipeRequest,
  OrderAnswer,
  OrderRequest,
  RecipeSummary,
  SaveRecipeRequest,
  WishPlanRequest,
  WishSheetRow,
} from '@stem-trace/contract';
import type { Recipe } from '@stem-trace/core/recipes';
import { Person } from '../database/entities/person.js';
import { Caller } from '../serve/access.guard.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { Input, Serve } from '../serve/serve.js';
import { WorkHost } from '../work/work-host.js';
import { OrdersService } from './orders.service.js';
import { RecipesService } from './recipes.service.js';

@Controller()
export class WishController {
  constructor(
    private readonly work: WorkHost,
    private readonly recipes: RecipesService,
    private readonly orders: OrdersService,
  ) {}

  @Serve('GET /api/recipes')
  list(@Input() { item }: { item: string }, @Caller() person: Person): Promise<RecipeSummary[]> {
    return this.recipes.list(item, person);
  }

  @Serve('POST /api/recipes')
  create(@Input() request: NewRecipeRequest, @Caller() person: Person): Promise<JsonBytes> {
    return this.work.json('recipe new', { ...request, at: new Date() }, person);
  }

  @Serve('GET /api/recipe')
  open(
    @Input() request: { item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('recipe', request, person, asker);
  }

  @Serve('PUT /api/recipe')
  save(@Input() request: SaveRecipeRequest, @Caller() person: Person): Promise<JsonBytes> {
    return this.work.json('recipe save', { ...request, at: new Date() }, person);
  }

  @Serve('POST /api/recipe/check')
  check(
    @Input() request: { recipe: Recipe },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('recipe check', request, person, asker);
  }

  @Serve('POST /api/wishes/plan')
  plan(
    @Input() request: WishPlanRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('wish plan', request, person, asker);
  }

  @Serve('POST /api/wishes')
  order(@Input() request: OrderRequest, @Caller() person: Person): Promise<OrderAnswer> {
    return this.orders.order(request, person);
  }

  @Serve('GET /api/wishes')
  sheets(
    @Input() request: { recipe: string; batch: string },
    @Caller() person: Person,
  ): Promise<WishSheetRow[]> {
    return this.orders.list(request, person);
  }
}
