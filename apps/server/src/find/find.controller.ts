import { Controller, Get, Query, StreamableFile } from '@nestjs/common';
import type { FindAnswer, FindCounts, FindRanges, LikePropertiesAnswer } from '@stem-trace/contract';
import {
  findCountsSchema,
  findRangesSchema,
  findSchema,
  findTableSchema,
  itemSchema,
} from '@stem-trace/contract/schemas';
import type { QueryWords } from '@stem-trace/core';
import { Caller } from '../access/access.guard.js';
import { Person } from '../database/entities/person.js';
import { Validate } from '../problems/validate.js';
import { FindCountsService } from './counts.service.js';
import { FindService, type FindRequest } from './find.service.js';
import { LikePropertiesService } from './like-properties.service.js';
import { FindTableService, type TableRequest } from './table.service.js';
import { FindWordsService } from './words.service.js';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;

@Controller('api')
export class FindController {
  constructor(
    private readonly finder: FindService,
    private readonly words: FindWordsService,
    private readonly counter: FindCountsService,
    private readonly tables: FindTableService,
    private readonly alike: LikePropertiesService,
  ) {}

  @Get('items')
  find(@Query(new Validate(findSchema)) request: FindRequest, @Caller() person: Person): Promise<FindAnswer> {
    return this.finder.find(request, person);
  }

  @Get('find/words')
  known(@Caller() person: Person): Promise<QueryWords> {
    return this.words.of(person);
  }

  @Get('find/counts')
  counts(
    @Query(new Validate(findCountsSchema)) { words, place }: { words: string; place?: string },
    @Caller() person: Person,
  ): Promise<FindCounts> {
    return this.counter.counts(words, person, place);
  }

  @Get('find/ranges')
  ranges(
    @Query(new Validate(findRangesSchema))
    { words, property, place }: { words: string; property: string; place?: string },
    @Caller() person: Person,
  ): Promise<FindRanges> {
    return this.counter.ranges(words, property, person, place);
  }

  @Get('like/properties')
  like(
    @Query(new Validate(itemSchema)) { item }: { item: string },
    @Caller() person: Person,
  ): Promise<LikePropertiesAnswer> {
    return this.alike.like(item, person);
  }

  @Get('find/table')
  async table(
    @Query(new Validate(findTableSchema)) request: TableRequest,
    @Caller() person: Person,
  ): Promise<StreamableFile> {
    return new StreamableFile(await this.tables.table(request, person), {
      type: TYPES[request.format],
      disposition: `attachment; filename="found.${request.format}"`,
    });
  }
}
