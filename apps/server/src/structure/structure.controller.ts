import { Body, Controller, Get, HttpCode, Post, Query } from '@nestjs/common';
import type {
  ConfigurationsAnswer,
  EffectAnswer,
  EffectRequest,
  NetAnswer,
  StructureAnswer,
} from '@stem-trace/contract';
import {
  commonSchema,
  configurationsSchema,
  effectSchema,
  netSchema,
  structureSchema,
} from '@stem-trace/contract/schemas';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { ConfigurationsService } from './configurations.service.js';
import { EffectService } from './effect.service.js';
import { NetService, type NetRequest } from './net.service.js';
import { StructureService, type StructureRequest } from './structure.service.js';

@Controller('api')
export class StructureController {
  constructor(
    private readonly structure: StructureService,
    private readonly nets: NetService,
    private readonly effects: EffectService,
    private readonly configurations: ConfigurationsService,
  ) {}

  @Get('net')
  net(@Query(new Validate(netSchema)) request: NetRequest, @Caller() person: Person): Promise<NetAnswer> {
    return this.nets.net(request, person);
  }

  /** Which configurations one may look at an item in. */
  @Get('configurations')
  configurationsOf(
    @Query(new Validate(configurationsSchema)) { item }: { readonly item: string },
    @Caller() person: Person,
  ): Promise<ConfigurationsAnswer> {
    return this.configurations.of(item, person);
  }

  /** Reads only; the items may be too many for an address. */
  @Post('effect')
  @HttpCode(200)
  effect(
    @Body(new Validate(effectSchema)) request: EffectRequest,
    @Caller() person: Person,
  ): Promise<EffectAnswer> {
    return this.effects.effect(request, person);
  }

  /** The nearest assemblies that hold all of some items. Reads only. */
  @Post('common')
  @HttpCode(200)
  common(
    @Body(new Validate(commonSchema)) { items, lens }: Pick<EffectRequest, 'items' | 'lens'>,
    @Caller() person: Person,
  ): Promise<EffectAnswer> {
    return this.effects.common(items, lens, person);
  }

  @Get('made')
  made(
    @Query(new Validate(structureSchema)) request: StructureRequest,
    @Caller() person: Person,
  ): Promise<StructureAnswer> {
    return this.structure.made(request, person);
  }

  @Get('used')
  used(
    @Query(new Validate(structureSchema)) request: StructureRequest,
    @Caller() person: Person,
  ): Promise<StructureAnswer> {
    return this.structure.used(request, person);
  }
}
