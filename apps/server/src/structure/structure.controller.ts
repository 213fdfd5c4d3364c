import { Controller } from '@nestjs/common';
import type { BaselineRow, EffectAnswer, EffectRequest, StructureAnswer } from '@stem-trace/contract';
import { Caller } from '../serve/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Asker } from '../serve/asker.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import { BaselinesService } from './baselines.service.js';
import { EffectService } from './effect.service.js';
import type { NetRequest } from './net.service.js';
import { StructureService, type StructureRequest } from './structure.service.js';
import { Input, Serve } from '../serve/serve.js';

@Controller()
export class StructureController {
  constructor(
    private readonly work: WorkHost,
    private readonly structure: StructureService,
    private readonly effects: EffectService,
    private readonly baselines: BaselinesService,
  ) {}

  @Serve('GET /api/net')
  net(
    @Input() request: NetRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('net', request, person, asker);
  }

  @Serve('GET /api/baselines')
  baselinesOf(
    @Input() { item }: { readonly item: string },
    @Caller() person: Person,
  ): Promise<BaselineRow[]> {
    return this.baselines.of(item, person);
  }

  /** Which configurations one may look at an item in. */
  @Serve('GET /api/configurations')
  configurationsOf(
    @Input() request: { readonly item: string },
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('configurations', request, person, asker);
  }

  /** Reads only; the items may be too many for an address. */
  @Serve('POST /api/effect')
  effect(
    @Input() request: EffectRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<JsonBytes> {
    return this.work.json('effect', request, person, asker);
  }

  /** The nearest assemblies that hold all of some items. Reads only. */
  @Serve('POST /api/common')
  common(
    @Input() { items, lens }: Pick<EffectRequest, 'items' | 'lens'>,
    @Caller() person: Person,
  ): Promise<EffectAnswer> {
    return this.effects.common(items, lens, person);
  }

  @Serve('GET /api/made')
  made(
    @Input() request: StructureRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<StructureAnswer | JsonBytes> {
    return request.all
      ? this.work.json('made', request, person, asker)
      : this.structure.made(request, person);
  }

  /** One level and the products are a page of what the index has in memory; a tree is worked out. */
  @Serve('GET /api/used')
  used(
    @Input() request: StructureRequest,
    @Caller() person: Person,
    @Asker() asker: AbortSignal,
  ): Promise<StructureAnswer | JsonBytes> {
    return request.all && !request.tops
      ? this.work.json('used', request, person, asker)
      : this.structure.used(request, person);
  }
}
